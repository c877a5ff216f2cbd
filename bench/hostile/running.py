"""Runs a case, and looks for what must not be."""

from __future__ import annotations

import os
import re
import socket
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path

from bench.hostile.case import Case

LONGEST, MOST_MEGABYTES = 60.0, 2000
"""Seconds and memory of a case."""

LARGEST = 10**9
"""Bytes of a file that is compared before and after."""

OWN = re.compile(r"(^|/)(\.bright-canvas|published(-draft)?|proof|rehearsal|new)(/|$)")
"""Where the program may write."""

NEW = re.compile(r"out\.png|a-(trials|poster|light|h264|vp9|av1).*")


@dataclass(frozen=True)
class Found:
    """What came of a case."""

    status: int
    seconds: float
    megabytes: int
    faults: tuple[str, ...]
    told: str


def run(case: Case, folder: Path) -> Found:
    """Lay a case out, and run it."""
    with ExitStack() as stack:
        doors = [stack.enter_context(one) for one in (_doors() if case.listens else ())]
        lay_out(case, folder, doors)
        before = {path: path.read_bytes() for path in _files(folder)}
        status, seconds, megabytes, told = _called(case, folder)
        faults = tuple(_faults(case, status, seconds, megabytes, told))
        faults += ("heard",) * sum(map(_was_heard, doors))
    faults += tuple(_touched(folder, before))
    return Found(status, seconds, megabytes, faults, told)


def _doors() -> Iterator[socket.socket]:
    """Canaries: connections and packets, on another port and on another address."""
    for host in ("127.0.0.1", "127.0.0.2"):
        door = socket.create_server((host, 0))
        packets = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        packets.bind(door.getsockname())
        for one in (door, packets):
            one.settimeout(0)
            yield one


def _was_heard(door: socket.socket) -> bool:
    try:
        door.accept() if door.type == socket.SOCK_STREAM else door.recv(1)
    except BlockingIOError:
        return False
    return True


def lay_out(case: Case, folder: Path, doors: Sequence[socket.socket] = ()) -> None:
    """Write its files."""
    named = [f"{host}:{port}".encode() for host, port in (one.getsockname() for one in doors[::2])]
    for name, content in case.files.items():
        path = folder / name
        path.parent.mkdir(parents=True, exist_ok=True)
        for token, address in zip((b"@DOOR@", b"@FAR@"), named, strict=False):
            content = content.replace(token, address)
        if name in case.odd:
            _put_oddity(path, case.odd[name])
        else:
            path.write_bytes(content)


def _put_oddity(path: Path, kind: str) -> None:
    if kind == "pipe":
        os.mkfifo(path)
    elif kind == "folder":
        path.mkdir()
    elif kind == "huge":
        with path.open("wb") as file:
            file.truncate(10**12)
    else:
        target = {"zero": "/dev/zero", "random": "/dev/urandom", "loop": str(path)}[kind]
        path.symlink_to(target)


def _files(folder: Path) -> Iterator[Path]:
    """Files that can be compared."""
    small = (path for path in folder.rglob("*") if not path.is_symlink() and path.is_file())
    return (path for path in small if path.stat().st_size < LARGEST)


def _called(case: Case, folder: Path) -> tuple[int, float, int, str]:
    command = [sys.executable, "-m", case.driver or "brightcanvas", *case.call]
    if case.fault:
        armed = ["bench.hostile.armed", case.fault, str(case.event), str(folder)]
        command = [sys.executable, "-m", *armed, *case.call]
    root = Path(__file__).parents[2]
    env = {**os.environ, **case.env, "PYTHONPATH": f"{root}{os.pathsep}{root / 'src'}"}
    told = folder.with_suffix(".told")
    began = time.monotonic()
    with told.open("wb") as out:
        process = subprocess.Popen(command, cwd=folder, stdout=out, stderr=out, env=env)
        status, megabytes = _waited(process, began)
    text = told.read_text(encoding="utf-8", errors="replace")
    told.unlink()
    return status, time.monotonic() - began, megabytes, text


def _waited(process: subprocess.Popen[bytes], began: float) -> tuple[int, int]:
    while time.monotonic() - began < LONGEST + 5:
        pid, waited, usage = os.wait4(process.pid, os.WNOHANG)
        if pid:
            process.returncode = os.waitstatus_to_exitcode(waited)
            return process.returncode, usage.ru_maxrss // 1000
        time.sleep(0.02)
    process.kill()
    return process.wait(), 0


def _faults(case: Case, status: int, seconds: float, megabytes: int, told: str) -> Iterator[str]:
    if "Traceback" in told or status == 70:
        yield "traceback"
    if seconds > LONGEST:
        yield "hang"
    elif status not in case.statuses:
        yield f"status {status}"
    if megabytes > MOST_MEGABYTES:
        yield "memory"


def _touched(folder: Path, before: dict[Path, bytes]) -> Iterator[str]:
    """What was there and is another one now, unless it is in a folder of ours."""
    for path, content in before.items():
        name = path.relative_to(folder).as_posix()
        is_same = path.exists() and path.read_bytes() == content
        if not is_same and (not OWN.search(name) or content.endswith(b"mine")):
            yield f"touched {name}"
    for path in _files(folder):
        name = path.relative_to(folder).as_posix()
        if path not in before and not (OWN.search(name) or NEW.fullmatch(name)):
            yield f"strange {name}"
