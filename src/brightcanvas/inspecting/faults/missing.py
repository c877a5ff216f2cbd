"""Files that a page asks for and that aren't there."""

from __future__ import annotations

from collections.abc import Iterator

from brightcanvas.inspecting.facts import PageFacts
from brightcanvas.inspecting.finding import Finding, Place, Severity
from brightcanvas.page.folder import HOST

NAME = "not there"


def find(facts: PageFacts) -> Iterator[Finding]:
    """Each file of the page's own host once."""
    missing: dict[str, list[int]] = {}
    users: dict[str, str] = {}
    for number, one in enumerate(facts.seen):
        for fetch in one.load.fetches:
            is_here = fetch.url.startswith(f"{HOST}/")
            if is_here and fetch.kind != "page" and facts.page.folder.bytes_of(fetch.url) is None:
                missing.setdefault(fetch.url, []).append(number)
                users.setdefault(fetch.url, ", ".join(fetch.used_by))
    for url, screens in missing.items():
        name = facts.file_name(url)
        at = facts.page.text.find(name.rpartition("/")[2])
        line = facts.page.text.count("\n", 0, at) + 1 if at >= 0 else 0
        yield Finding(
            NAME, f"{name} is asked for, and isn't there", Place(facts.name, line, users[url]),
            "upload it, or correct its address; mind small and capital letters", Severity.SPOILS,
            tuple(facts.screens[number] for number in screens), about=name,
        )  # fmt: skip
