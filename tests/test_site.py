"""What of this machine a page gets to see: its own site, and nothing that lies beside it."""

from __future__ import annotations

import socket
import time
from contextlib import ExitStack
from pathlib import Path

import pytest

from brightcanvas.measuring.site import opened
from brightcanvas.page.folder import HOST, folder_of
from brightcanvas.page.site import pages_at

from .browsing import CHROMIUM, DRIVER
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


CALLS = """<!doctype html><title>x</title><script>
  const call = new RTCPeerConnection({ iceServers: [{ urls: %s }] });
  call.createDataChannel("x");
  call.createOffer().then((offer) => call.setLocalDescription(offer));
</script><script>
  fetch("http://127.0.0.2:%d/").catch(() => {});
  new WebSocket("ws://127.0.0.2:%d/");
  open("http://127.0.0.2:%d/");
</script>"""


@pytest.mark.slow
@pytest.mark.parametrize("browser", ["chromium", "firefox"])
def test_nothing_leaves_for_another_address(tmp_path: Path, browser: str) -> None:
    """Neither packets of calls between browsers nor connections: a canary hears nothing."""
    if not {"chromium": CHROMIUM and DRIVER, "firefox": FIREFOX}[browser]:
        pytest.skip(f"no {browser} here")
    with ExitStack() as stack:
        heard = [
            stack.enter_context(socket.socket(socket.AF_INET, socket.SOCK_DGRAM)) for _ in range(2)
        ]
        for one, host in zip(heard, ("127.0.0.2", "127.0.0.1"), strict=True):
            one.bind((host, 0))
        door = stack.enter_context(socket.create_server(("127.0.0.2", 0)))
        for one in (*heard, door):
            one.settimeout(0)
        urls = [f"stun:{host}:{port}" for host, port in (one.getsockname() for one in heard)]
        port = door.getsockname()[1]
        (tmp_path / "index.html").write_text(CALLS % (urls, port, port, port), "utf-8")
        with opened(folder_of(tmp_path / "index.html"), browser) as window:
            time.sleep(3)
            assert window.evaluate("document.title") == "x"
        for one in heard:
            with pytest.raises(BlockingIOError):
                one.recvfrom(2000)
        with pytest.raises(BlockingIOError):
            door.accept()
