"""Pages are edited where their tags really stand, and every byte outside of the edits stays."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from brightcanvas.html.tags import tags_of
from brightcanvas.html.tree import PLACE, Node, line_of, parsed, written_tag
from brightcanvas.integration.marked import BEGIN, END, Snippets, inserted, without_marked
from brightcanvas.page.aim import hit
from brightcanvas.page.folder import folder_of
from brightcanvas.page.reading import Page, read_page

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
    attributes = sorted((str(k), v) for k, v in node.attrib.items() if k != PLACE)
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


def test_each_element_knows_where_its_tag_is_written() -> None:
    text = (
        "<!doctype html>\r\n<title>x</title>\r<table><td>1</table>\n<svg><Path\nd='>'/></svg>"
        "<template><i>none of the page</i></template><p title='a>b'>"
    )
    root = parsed(text)
    tags = {one.tag.rpartition("}")[2]: written_tag(one, text) for one in root.iter()}
    assert "i" not in tags
    assert [name for name, tag in tags.items() if tag is None] == [
        "html",
        "head",
        "body",
        "tbody",
        "tr",
    ]
    assert {name: text[tag.start : tag.end] for name, tag in tags.items() if tag} == {
        "title": "<title>", "table": "<table>", "td": "<td>", "svg": "<svg>",
        "path": "<Path\nd='>'/>", "template": "<template>", "p": "<p title='a>b'>",
    }  # fmt: skip
    assert {one.tag: line_of(one) for one in root.iter("title")} == {"title": 2}
    assert line_of(root.find(".//p")) == 5


def test_depth_costs_no_more_than_length() -> None:
    """Nesting has no limit in HTML; a reader that looks at all that is open never ends."""
    root = parsed("<div>" * 50_000)
    assert sum(1 for _ in root.iter("div")) == 50_000
