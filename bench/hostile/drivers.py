"""Cases that take more than one call: a server with racing editors, a watched source, the library.

    python -m bench.hostile.drivers pestered|watched|called SEED

It runs in a copy of a case's folder. What must not be ends with a traceback, which the harness
counts.
"""

from __future__ import annotations

import json
import os
import random
import subprocess
import sys
import threading
import time
from contextlib import suppress
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from brightcanvas.adjusting.server import AdjustServer
from brightcanvas.adjusting.session import ConflictError, Session
from brightcanvas.brief.rewriting import Change
from brightcanvas.library.for_briefs import build, load_brief
from brightcanvas.library.for_pages import inspect
from brightcanvas.library.for_pictures import compress, suggest_subject
from brightcanvas.values.errors import BriefError, BrightCanvasError
from brightcanvas.values.files import LARGEST_SOURCE

REQUESTS, SAVES, ROUNDS = 150, 40, 5

ODD: tuple[Any, ...] = (
    "\ud800", 1e400, -1, None, True, [], {}, [[[[1]]]], "x" * 9999, {"point": [0.5, 0.5]},
    {"box": [1, 0, 0, 1]}, {"\udfff": 1}, "../../x", "90px", "</script>", 10**400,
)  # fmt: skip
WAYS = ("state", "scene", "suggest", "stills", "frame", "save", "undo", "redo", "drafts", "x",
        "draft/a.avif", "look/..%2f", "", "adjust.js", "http://[/")  # fmt: skip
KEYS = ("subject", "height", "copy", "tone", "scrim", "source", "breakpoint", "x", "position")


def pestered(by: random.Random) -> None:
    """Every request is answered, and no line of an editor is lost."""
    brief = Path("brief.toml")
    session = Session(brief, LARGEST_SOURCE)
    server = AdjustServer(session)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    lines = [f"# line {number}\n" for number in range(SAVES)]
    editor = threading.Thread(target=edit, args=(brief, lines, random.Random(by.random())))
    editor.start()
    for _ in range(REQUESTS):
        if by.random() < 0.2:
            _save(session, by)
        status = _asked(server, by)
        assert 200 <= status < 500, status
    editor.join()
    texts = [one.read_text("utf-8") for one in Path().glob("brief*.toml")]
    lost = [one for one in lines if not any(one in text for text in texts)]
    assert not lost, lost
    server.shutdown()
    session.close()


def _save(session: Session, by: random.Random) -> None:
    """As the page does, a change of one who sees the brief as it is."""
    change = Change("a", "", "height", f"{by.randrange(50, 90)}px")
    with suppress(BriefError, ConflictError):
        session.save([change], session.said().brief.digest)


def edit(brief: Path, lines: list[str], by: random.Random) -> None:
    """Add lines one after the other, as editors do that write in place, and that rename."""
    for line in lines:
        if by.random() < 0.5:
            with brief.open("a", encoding="utf-8") as file:
                file.write(line)
        else:
            aside = brief.with_name("aside.tmp")
            aside.write_text(brief.read_text("utf-8") + line, "utf-8")
            aside.replace(brief)
        time.sleep(by.uniform(0, 0.15))


def _asked(server: AdjustServer, by: random.Random) -> int:
    change = {"backdrop": by.choice(("a", "x", "")), "breakpoint": "", "key": by.choice(KEYS),
              "value": by.choice(ODD)}  # fmt: skip
    body = {"backdrop": by.choice(("a", 3, "")), "view": "desk", "second": by.choice(ODD),
            "number": 0, "seen": by.choice(("", "x")),
            "changes": [change] * by.choice((0, 1, 2))}  # fmt: skip
    said = json.dumps(body) if by.random() < 0.9 else by.choice(("[" * 50_000, "{", '"\\ud800"'))
    key = server.key if by.random() < 0.8 else "x"
    line = HTTPConnection("127.0.0.1", server.server_port, timeout=30)
    kind = "application/json" if by.random() < 0.9 else "text/plain"
    method = by.choice(("POST", "POST", "GET"))
    line.request(method, f"/{key}/{by.choice(WAYS)}", said, {"Content-Type": kind})
    answer = line.getresponse()
    answer.read()
    line.close()
    return answer.status


def watched(by: random.Random) -> None:
    """Sources and briefs that are half there while they are watched."""
    whole = {path: path.read_bytes() for path in (Path("a.png"), Path("brief.toml"))}
    command = [sys.executable, "-m", "brightcanvas", "build", "--watch"]
    with Path("told.tmp").open("wb") as told:
        running = subprocess.Popen(command, stdout=told, stderr=told)
        for _ in range(ROUNDS):
            path, content = by.choice(list(whole.items()))
            for end in sorted(by.randrange(len(content)) for _ in range(3)):
                path.write_bytes(content[:end])
                time.sleep(by.uniform(0, 0.6))
            path.write_bytes(content)
            time.sleep(by.uniform(0.5, 2))
        assert running.poll() is None, Path("told.tmp").read_text("utf-8", "replace")
        running.kill()
        running.wait()
    said = Path("told.tmp").read_text("utf-8", "replace")
    Path("told.tmp").unlink()
    assert "Traceback" not in said, said


def called(by: random.Random) -> None:
    """The library with devices and pipes, from several threads at once."""
    os.mkfifo("pipe")
    names = ["a.png", "pipe", "/dev/zero", "/dev/null", ".", "none", "brief.toml", "page.html"]
    calls = [
        lambda name: build(load_brief(name)), lambda name: compress(name, into="new"),
        inspect, suggest_subject,
    ]  # fmt: skip
    faults: list[BaseException] = []

    def work(seed: float) -> None:
        mine = random.Random(seed)
        for _ in range(4):
            try:
                with suppress(BrightCanvasError):
                    mine.choice(calls)(mine.choice(names))  # type: ignore[no-untyped-call]
            except Exception as error:
                faults.append(error)

    threads = [threading.Thread(target=work, args=(by.random(),), daemon=True) for _ in range(4)]
    for one in threads:
        one.start()
    for one in threads:
        one.join(50)
    assert not any(one.is_alive() for one in threads), "it waits"
    if faults:
        raise faults[0]


def _in_a_copy() -> None:
    """What the case itself changes lies where the program may write."""
    work = Path("new/work")
    work.mkdir(parents=True)
    for path in Path().iterdir():
        if path.is_file():
            (work / path.name).write_bytes(path.read_bytes())
    os.chdir(work)


if __name__ == "__main__":
    _in_a_copy()
    {"pestered": pestered, "watched": watched, "called": called}[sys.argv[1]](
        random.Random(sys.argv[2])
    )
