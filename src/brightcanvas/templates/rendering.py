"""Facts put into the templates of pages."""

from __future__ import annotations

from functools import cache

from jinja2 import Environment, PackageLoader

from brightcanvas.values.words import bytes_text


def rendered(name: str, **facts: object) -> str:
    """A page: one of the templates with facts in it, each escaped unless it is ``Markup``.

    Args:
        name: of the template, such as ``paste.html.j2``.
        facts: by the names that the template has for them.
    """
    text: str = _environment().get_template(name).render(**facts)
    return text


@cache
def _environment() -> Environment:
    loader = PackageLoader("brightcanvas.templates", "pages")
    environment = Environment(loader=loader, autoescape=True, keep_trailing_newline=True)
    environment.filters["bytes"] = bytes_text
    return environment
