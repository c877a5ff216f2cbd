"""Briefs and pages that nobody wrote in good faith."""

from __future__ import annotations

import random

from bench.hostile.case import Case, brief, mutated
from bench.hostile.media import picture

ODD = (
    "inf", "-inf", "nan", "1e308", "-1", "0", "9" * 308, "9" * 5000, '""', '"\\u0000"', "[]", "{}",
    '"' + "a" * 300 + '"', '"../../x"', '"a\\nb"', "[" * 200 + "]" * 200, '"1e999px"', "true",
    '"' + ":not(" * 300 + "a" + ")" * 300 + '"', '"calc(' + "(" * 99 + "1px" + ")" * 99 + ')"',
    '"http:/127.0.0.1:9/a.mp4"', '"12:30.mp4"', '"initial"', '"</style><script>"', "1979-05-27",
    '"' + "9" * 400 + 'px"', '"999999999999999px"', "[0, 0, 1e-300, 1e-300]", '"\\u202e"', '"a "',
)  # fmt: skip
KEYS = (
    ("site", ("output", "address", "widest", "densest", "room", "title", "layer", "addresses",
              "workers", "strict", "most_parts")),
    ("backdrop", ("name", "source", "element", "height", "width", "size", "subject", "copy",
                  "first_view", "formats", "quality", "position", "behind", "repeat", "padding",
                  "attachment", "form", "drift", "scrim", "tone", "poster_at", "force", "most")),
    ("backdrop.clip", ("begin", "end", "most", "speed", "seam", "formats", "loop")),
    ("budget", ("most", "backdrop", "breakpoint", "density")),
    ("screen", ("name", "width", "height", "density", "share")),
    ("breakpoint", ("name", "below", "orientation")),
    ("page", ("name", "backdrops")),
)  # fmt: skip


def odd_brief(by: random.Random) -> Case:
    """A small brief with some keys of some tables that hold something odd."""
    if by.random() < 0.2:
        text = mutated(brief("a.jpg", '[site]\ntitle = "Mill"\n'), by)
    else:
        table, keys = by.choice(KEYS)
        chosen = by.sample(keys, by.choice((1, 1, 2)))
        lines = "\n".join(f"{key} = {by.choice(ODD)}" for key in chosen)
        head = f"[{table}]" if table in ("site", "backdrop.clip") else f"[[{table}]]"
        text = brief("a.jpg") if table != "backdrop" or by.random() < 0.5 else b""
        text += f"{head}\n{lines}\n".encode()
        if table == "backdrop":
            text += b'source = "a.jpg"\nelement = ".b"\nheight = "80px"\n'
    calls = (["plan"], ["plan"], ["build"], ["build", "--draft"], ["sheet"], ["store"])
    return Case("brief", {"a.jpg": picture("JPEG"), "brief.toml": text}, by.choice(calls))


def _sheet(by: random.Random) -> str:
    return by.choice((
        "a,b{" * 30 + "color:red" + "}" * 30,
        "a,b{&,& &{" * 12 + "}" * 24,
        '@import "page.css";' * 40,
        ":root{--a0:x;" + "".join(f"--a{n}:var(--a{n - 1}) var(--a{n - 1});" for n in range(1, 40))
        + "} p{background:var(--a39)}",
        " ".join(["p"] * 150) + "{background:url(a.jpg)}",
        ",".join(f".c{n}" for n in range(20000)) + "{background:url(a.jpg)}",
        f"p{{width:{'9' * 5000}px;background:url(http://[/a.jpg)}}",
        "p{background:image-set('a.jpg' 1e999x, url('%00') 0x)}",
        "@media (color: 1e999) or (width > " + "9" * 400 + "px){p{background:url(a.jpg)}}",
        "@layer a.b.c{" * 50 + "}" * 50, "p" + ":not(" * 300 + "a" + ")" * 300 + "{}",
        ".a{}" * 60000, "@supports (" * 99, "/*" * 9999, "p{background:url(" + "a" * 9999 + ")}",
    ))  # fmt: skip


def _markup(by: random.Random) -> str:
    return by.choice((
        '<img src="http://[/a.jpg" srcset="a%00b.jpg 1x, ' + "a" * 300 + '.jpg 2x">',
        "<p " + " ".join(f"a{n}=1" for n in range(30000)) + ">",
        "<b>" * 20000, "<div>" * 150 + "</div>" * 150, "<a><b>" * 4000, "<table>" * 2000,
        f'<img width="{"9" * 5000}" srcset="a.jpg {"9" * 5000}w" sizes="{"9" * 5000}px">',
        '<base href="http://[">', '<link rel=stylesheet href="\\\\?\\c:">' * 30,
        '<link rel=preload as=image href="//\uff0f\uff0f.x/a" media="' + "(" * 99 + '">',
        '<p style="' + "(" * 9999 + '">', '<p style="width:' + "9" * 5000 + 'px">',
        "<template>" * 400, "<svg><p>" * 500, "<select>" * 3000, "\x00" * 999, "<!--" * 999,
        "<p class='" + "a " * 50000 + "'>", "<br>" * 20000, "<noscript><p " * 300,
    ))  # fmt: skip


def odd_page(by: random.Random) -> Case:
    """A page that keeps whoever reads it busy."""
    style = _sheet(by) if by.random() < 0.6 else ""
    body = _markup(by) if not style or by.random() < 0.3 else "<p>a</p>"
    page = f"<!doctype html><link rel=stylesheet href=page.css>{body}<p class=a>x".encode()
    if by.random() < 0.15:
        page = mutated(page, by)
    files = {
        "page.html": page, "page.css": style.encode(), "brief.toml": brief("a.jpg"),
        "a.jpg": picture("JPEG"),
    }  # fmt: skip
    calls = (["hits", "page.html"], ["rehearse", "page.html", "--screen", "390x844@3"])
    return Case("page", files, by.choice(calls))
