"""Pages are edited where their tags really stand, and every byte outside of the edits stays."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from brightcanvas.inserting.marked import BEGIN, END, Snippets, inserted, without_marked
from brightcanvas.page.aim import hit
from brightcanvas.page.folder import folder_of
from brightcanvas.page.markup import LINE, Node, parsed
from brightcanvas.page.reading import Page, read_page
from brightcanvas.page.tags import tags_of

SNIPPETS = Snippets(
    '<link rel="preload" as="image" href="ours.avif">\n', "ours.css",
    ((".hero", '<i class="ours"></i>\n'),),
)  # fmt: skip


def page_of(folder: Path, text: str) -> Page:
    """A page with that text, line ends as they are."""
    (folder / "page.html").write_bytes(text.encode())
    return read_page(folder_of(folder / "page.html"))


def edited(page: Page) -> str:
    """The page's text with everything of ours in it."""
    (hero,) = [one.etree_element for one in hit(page, ".hero")]
    return inserted(page, SNIPPETS, {".hero": hero}, (), [], [])


def outline(node: Node) -> list[object]:
    """A tree without places, comments and what is ours."""
    kept = [
        outline(one) for one in node
        if isinstance(one.tag, str) and "ours" not in str(sorted(one.attrib.items()))
    ]  # fmt: skip
    attributes = sorted((str(k), v) for k, v in node.attrib.items() if k != LINE)
    return [str(node.tag), attributes, kept]


PIECES = (
    "<script>var end = '</head><body>'; if (a<b) {}</script>", "<style>a > b::after { }</style>",
    "<title>The </head> of <body></title>", "<!-- </head><body class=hero> -->", "<!-->", "<!--->",
    '<meta name=viewport content="width=device-width">', "<meta charset=utf-8>",
    "<link rel=icon href='a>b'>", "<meta content='<body'>", "<base target=_self />",
)  # fmt: skip
BODY = (
    '<p title="a<b">x</p>',
    "<textarea><div class=hero></textarea>", '<div data-x="</head>">y</div>',
    "<a href=a/b>z</a>", "<img alt='>' src=a.png>", "<!-- <body --><br/>", "<p a=b\"c d='>'>",
    "<svg><path d='M0 0'/></svg>", "<script>document.write('<body>')</script>", "text < 3 & more",
)  # fmt: skip


@pytest.mark.parametrize("seed", range(60))
def test_hostile_markup_stays_but_for_the_edits(tmp_path: Path, seed: int) -> None:
    by = random.Random(seed)
    line = by.choice(["\n", "\r\n", "\r"])
    head = line.join(by.sample(PIECES, by.randint(0, 6)))
    body = line.join([*by.sample(BODY, by.randint(0, 5)), '<div class="hero" title="a>b">',
                      *by.sample(BODY, by.randint(0, 3)), "</div>"])  # fmt: skip
    start = by.choice(["<!doctype html>", "<!doctype html><html lang='a>b'>", ""])
    tags = by.random() < 0.7
    text = f"{start}{line}{'<head>' if tags else ''}{head}{line}"
    text += f"{'</head><body id=it>' if tags else ''}{line}{body}"
    page = page_of(tmp_path, text)
    after = edited(page)
    assert after.count(BEGIN) == after.count(END) == 3
    assert without_marked(after).replace("\r", "").replace("\n", "") == text.replace(
        "\r", ""
    ).replace("\n", "")
    assert set(after) - set(text) <= set(after.replace(text, "")), "no line end of another kind"
    assert ("\n" in after.replace("\r\n", "")) == ("\n" in text.replace("\r\n", ""))
    before, now = outline(parsed(text)), outline(parsed(after))
    assert now == before
    found = parsed(after).findall(".//*[@href='ours.css']")
    assert len(found) == 1, "in no comment, script or title"
    assert parsed(after).find(".//div/i[@class='ours']") is not None


def test_tags_are_read_as_browsers_do() -> None:
    text = "<p a=1 A=2 b='x>y' c>t</p><p open=\"never"
    (first, closing) = tags_of(text)
    assert (first.name, closing.closes, text[first.start : first.end]) == (
        "p", True, "<p a=1 A=2 b='x>y' c>",
    )  # fmt: skip
    named = first.attribute("a")
    assert named is not None
    assert named.value == "1", "the first of a name counts"
