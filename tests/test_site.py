"""What of this machine a page gets to see: its own site, and nothing that lies beside it."""

from __future__ import annotations

import functools
import os
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import ExitStack
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path

import pytest

from brightcanvas.browsers.webkit import is_here, webkit_window
from brightcanvas.measuring.elements import laid
from brightcanvas.page.folder import HOST, folder_of
from brightcanvas.page.site import pages_at
from brightcanvas.serving.opened_page import opened
from brightcanvas.serving.page_server import served
from brightcanvas.values.environments import Environment
from brightcanvas.values.errors import BriefError, ExitStatus
from brightcanvas.values.geometry import Size

from .browsing import CHROMIUM
from .conftest import call, wait
from .test_firefox import FIREFOX

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


NEEDED = {"chromium": CHROMIUM, "firefox": FIREFOX}
CALLS = """<!doctype html><title>x</title><script>
  const call = new RTCPeerConnection({ iceServers: [{ urls: %s }] });
  call.createDataChannel("x");
  call.createOffer().then((offer) => call.setLocalDescription(offer));
</script><script>
  for (const host of %s) {
    fetch(`http://${host}/`, { mode: "no-cors" }).catch(() => {});
    navigator.sendBeacon(`http://${host}/`, "x");
    new WebSocket(`ws://${host}/`);
    new Image().src = `https://${host}/x.png`;
    open(`http://${host}/`);
  }
</script>"""


def _looked_at(page: Path, browser: str) -> str:
    """The title of a page that has had three seconds."""
    if browser == "webkit":
        with served(folder_of(page)) as host, webkit_window() as view:
            view.open(f"{host.address}/{page.name}")
            time.sleep(3)
            return str(view.evaluate("document.title"))
    with opened(folder_of(page), browser) as window:
        time.sleep(3)
        return str(window.evaluate("document.title"))


@pytest.mark.slow
@pytest.mark.parametrize("browser", ["chromium", "firefox", "webkit"])
def test_nothing_leaves_for_another_address_or_port(tmp_path: Path, browser: str) -> None:
    """Neither packets of calls between browsers nor connections: canaries hear nothing."""
    if not (is_here() if browser == "webkit" else NEEDED[browser]):
        pytest.skip(f"no {browser} here")
    with ExitStack() as stack:
        heard = [
            stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM)) for _ in range(2)
        ]
        for one, host in zip(heard, ("127.0.0.2", "127.0.0.1"), strict=True):
            one.bind((host, 0))
        doors = [
            stack.enter_context(socket.create_server((host, 0)))
            for host in ("127.0.0.2", "127.0.0.1")
        ]
        for one in (*heard, *doors):
            one.settimeout(0)
        urls = [f"stun:{host}:{port}" for host, port in (one.getsockname() for one in heard)]
        hosts = [f"{host}:{port}" for host, port in (one.getsockname() for one in doors)]
        hosts.append(hosts[1].replace("127.0.0.1", "localhost"))
        (tmp_path / "index.html").write_text(CALLS % (urls, hosts), "utf-8")
        assert _looked_at(tmp_path / "index.html", browser) == "x"
        for one in heard:
            with pytest.raises(BlockingIOError):
                one.recvfrom(2000)
        for one in doors:
            with pytest.raises(BlockingIOError):
                one.accept()


HERO = "<div class=hero style='height:300px;background:url(fen.jpg)'>Flour and bread</div>"
HOLDING = {
    "windows": "for (let i = 0; i < 50; i++) { const w = open('/x' + i); w && w.focus(); }",
    "a query": "if (!location.search) location.search = 'lang=en'",
    "reloads": "setInterval(() => location.reload(), 50)",
    "questions": "alert(1); confirm(2); prompt(3); setInterval(() => alert(4), 100)",
    "overrides": "window.getComputedStyle = Element.prototype.getBoundingClientRect = () => null;"
    " window.requestAnimationFrame = () => 0; Array.prototype.map = () => { throw 1 };"
    " JSON.stringify = () => 'x'; Document.prototype.querySelectorAll = () => []",
    "a form": "document.addEventListener('DOMContentLoaded', () => {"
    " const f = document.createElement('form'); f.method = 'post'; f.action = '/index.html';"
    " document.body.append(f); f.submit() })",
}
"""Scripts that keep others from looking at the page."""


@pytest.mark.slow
@pytest.mark.parametrize("browser", list(NEEDED))
@pytest.mark.parametrize("kind", list(HOLDING))
def test_a_page_that_keeps_others_from_looking_is_measured(
    tmp_path: Path, browser: str, kind: str
) -> None:
    if not NEEDED[browser]:
        pytest.skip(f"no {browser} here")
    page = tmp_path / "index.html"
    page.write_text(f"<!doctype html><script>{HOLDING[kind]}</script>{HERO}", "utf-8")
    with opened(folder_of(page), browser) as window:
        window.resize(Environment(600, 700))
        (found,) = laid(window, [".hero"], Size(600, 700))
    assert found is not None
    assert (found.box.height, [one.words for one in found.lines]) == (300, ["Flour and bread"])


@pytest.mark.slow
@pytest.mark.parametrize("browser", list(NEEDED))
@pytest.mark.parametrize("name", ["our rooms/the mill.html", "räume/mühle & co.html", "100%.html"])
def test_any_name_of_a_page_is_opened(tmp_path: Path, browser: str, name: str) -> None:
    if not NEEDED[browser]:
        pytest.skip(f"no {browser} here")
    page = tmp_path / name
    page.parent.mkdir(exist_ok=True)
    page.write_text(f"<!doctype html><meta charset=utf-8><title>x</title>{HERO}", "utf-8")
    with opened(folder_of(page, tmp_path), browser) as window:
        assert window.evaluate("document.title") == "x"


@pytest.mark.slow
@pytest.mark.skipif(not NEEDED["chromium"], reason="no chromium here")
@pytest.mark.parametrize(("hanging", "status"), [(1, 0), (2, 4)], ids=["once", "always"])
def test_a_browser_that_hangs_when_it_starts_is_started_anew(
    tmp_path: Path, hanging: int, status: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("brightcanvas.browsers.chromium.STARTING", (2.0, 20.0 / hanging**3))
    page = tmp_path / "page.html"
    page.write_text(f"<!doctype html><title>x</title>{HERO}", "utf-8")
    tools, told = tmp_path / "bin", tmp_path / "starts"
    tools.mkdir()
    chromium = tools / "chromium"
    chromium.write_text(
        f"#!/bin/sh\necho >> {told}\n"
        f"[ $(wc -l < {told}) -gt {hanging} ] || exec sleep 300\n"
        f'exec {CHROMIUM} "$@"\n'
    )
    chromium.chmod(0o755)
    monkeypatch.setenv("PATH", f"{tools}{os.pathsep}{os.environ['PATH']}")
    ran = call("inspect", page, "--browser", "chromium")
    assert (ran.status in (0, 1)) == (status == 0), ran.err
    assert status == 0 or "didn't start" in ran.err
    assert told.read_text().count("\n") == 2


@pytest.mark.slow
@pytest.mark.parametrize("browser", list(NEEDED))
def test_a_host_may_add_a_slash(tmp_path: Path, browser: str) -> None:
    """As hosts do to the address of a folder; it is the same page."""
    if not NEEDED[browser]:
        pytest.skip(f"no {browser} here")
    (tmp_path / "rooms").mkdir()
    (tmp_path / "rooms/index.html").write_text(f"<!doctype html><title>x</title>{HERO}", "utf-8")
    handler = functools.partial(SimpleHTTPRequestHandler, directory=str(tmp_path))
    with ThreadingHTTPServer(("127.0.0.1", 0), handler) as server, ExitStack() as stack:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        stack.callback(server.shutdown)
        address = f"http://127.0.0.1:{server.server_port}/rooms/"
        (folder,) = stack.enter_context(pages_at(address, None))
        window = stack.enter_context(opened(folder, browser))
        assert window.evaluate("document.title") == "x"


@pytest.mark.slow
@pytest.mark.parametrize("browser", list(NEEDED))
@pytest.mark.parametrize(("script", "where"), [
    ("location.replace('/else.html')", "/else.html"),
    ("location = 'http://other.example/'", "other"),
    ("location = 'https://other.example/'", "another host"),
])  # fmt: skip
def test_a_page_that_sends_its_readers_on_is_not_judged(
    tmp_path: Path, browser: str, script: str, where: str
) -> None:
    if not NEEDED[browser]:
        pytest.skip(f"no {browser} here")
    page = tmp_path / "index.html"
    page.write_text(f"<!doctype html>{HERO}<script>{script}</script>", "utf-8")
    (tmp_path / "else.html").write_text(f"<!doctype html><p>Elsewhere{HERO}", "utf-8")
    told = pytest.raises(BriefError, match=f"sends its readers to .*{where}")
    with told, opened(folder_of(page), browser):
        pass


@pytest.mark.slow
@pytest.mark.alone
@pytest.mark.parametrize("browser", list(NEEDED))
def test_a_page_that_is_written_anew_after_its_load_is_looked_at(
    tmp_path: Path, browser: str
) -> None:
    """Nobody closes such a document, so that it is never complete again."""
    if not NEEDED[browser]:
        pytest.skip(f"no {browser} here")
    script = "addEventListener('load', () => setTimeout(() => document.write('<h1>Flour</h1>')))"
    page = tmp_path / "index.html"
    page.write_text(f"<!doctype html>{HERO}<script>{script}</script>", "utf-8")
    began = time.monotonic()
    with opened(folder_of(page), browser) as window:
        assert window.evaluate("document.body?.innerText.includes('Flour') || 'not yet'")
    assert time.monotonic() - began < 25


BUSY = "<!doctype html><style>.hero { height: 300px; background: url(fen.jpg) }</style>"
BUSY += "<div class=hero>Flour</div><script>setTimeout(() => { while (true) {} })</script>"


@pytest.mark.alone
@pytest.mark.skipif(sys.platform == "win32", reason="signals reach a program otherwise there")
@pytest.mark.parametrize("browser", list(NEEDED))
def test_a_busy_browser_is_ended_with_us(tmp_path: Path, browser: str) -> None:
    """Within two seconds of Ctrl-C, with all processes that it has started."""
    if not NEEDED[browser]:
        pytest.skip(f"no {browser} here")
    (tmp_path / "index.html").write_text(BUSY, "utf-8")
    short = Path(tempfile.mkdtemp())  # names of sockets have no more than 108 letters
    command = [sys.executable, "-m", "brightcanvas", "begin", "index.html", "brief.toml"]
    running = subprocess.Popen(
        [*command, "--browser", browser], cwd=tmp_path, env={**os.environ, "TMPDIR": str(short)},
        stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    until = time.monotonic() + 60
    while not _started_with(short) and time.monotonic() < until:
        time.sleep(0.1)
    time.sleep(3)
    assert _started_with(short)
    began = time.monotonic()
    running.send_signal(signal.SIGINT)
    said = running.communicate(timeout=60)[1]
    assert (running.returncode, time.monotonic() - began < 2, "Stopped" in said) == (
        ExitStatus.INTERRUPTED, True, True,
    )  # fmt: skip
    wait(lambda: _started_with(short) == [], patience=10)
    shutil.rmtree(short, ignore_errors=True)


def _started_with(profile: Path) -> list[str]:
    """The processes of browsers whose profile lies in a folder."""
    listed = subprocess.run(
        ["ps", "-ww", "-eo", "args"], capture_output=True, text=True, check=True
    )
    return [one for one in listed.stdout.splitlines() if str(profile) in one and "begin" not in one]
