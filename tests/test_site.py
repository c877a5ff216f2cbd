"""What of this machine a page gets to see: its own site, and nothing that lies beside it."""

from __future__ import annotations

from pathlib import Path

import pytest

from brightcanvas.page.folder import HOST
from brightcanvas.page.site import pages_at

PAGE = "<!doctype html><link rel=stylesheet href=../../kit/site.css><img src=../../logo.png>"


@pytest.fixture
def site(tmp_path: Path) -> Path:
    """A page two folders down, what it names above, and what is nobody's business."""
    for name in ("a/pages/page.html", "kit/site.css", "kit/deep/back.jpg", "kit/.env", "logo.png",
                 ".ssh/id_rsa", "private.jpg", "a/secret.txt", "a/pages/hero.jpg",
                 "a/pages/notes.key"):  # fmt: skip
        (tmp_path / name).parent.mkdir(parents=True, exist_ok=True)
        (tmp_path / name).write_text(PAGE if name.endswith("html") else "x", "utf-8")
    return tmp_path


@pytest.mark.parametrize(("path", "is_seen"), [
    ("a/pages/page.html", True), ("a/pages/hero.jpg", True), ("kit/site.css", True),
    ("kit/deep/back.jpg", True), ("logo.png", True), ("private.jpg", False),
    ("a/secret.txt", False), (".ssh/id_rsa", False), ("kit/.env", False),
    ("a/pages/notes.key", False), ("../outside.jpg", False), ("%2e%2e/outside.jpg", False),
])  # fmt: skip
def test_a_page_sees_its_folder_and_what_it_names_above(
    site: Path, path: str, *, is_seen: bool
) -> None:
    (site.parent / "outside.jpg").write_text("x", "utf-8")
    with pages_at(str(site / "a/pages/page.html"), None) as (folder,):
        assert (folder.file(f"{HOST}/{path}") is not None) == is_seen


def test_a_link_leads_to_nothing_outside(
    site: Path, tmp_path_factory: pytest.TempPathFactory
) -> None:
    elsewhere = tmp_path_factory.mktemp("elsewhere") / "face.jpg"
    elsewhere.write_text("x", "utf-8")
    (site / "a/pages/link.jpg").symlink_to(elsewhere)
    with pages_at(str(site / "a/pages/page.html"), None) as (folder,):
        assert folder.file(f"{HOST}/a/pages/link.jpg") is None


def test_a_root_that_is_named_is_open(site: Path) -> None:
    with pages_at(str(site / "a/pages/page.html"), site) as (folder,):
        assert folder.file(f"{HOST}/private.jpg") is not None
        assert folder.file(f"{HOST}/.ssh/id_rsa") is None
