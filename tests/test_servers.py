"""The headers on real web servers: nginx, and Apache with HTTP/2 and early hints in Chromium."""

from __future__ import annotations

import base64
import getpass
import hashlib
import re
import shutil
import socket
import subprocess
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import html5lib
import pytest

from brightcanvas.delivery.hints import are_heavy
from brightcanvas.page.found_hints import header_hints

from .browsing import CHROMIUM, DRIVER, Browser

NGINX = shutil.which("nginx") or shutil.which("nginx", path="/usr/sbin")
APACHE = shutil.which("apache2") or shutil.which("apache2", path="/usr/sbin")
MODULES = Path("/usr/lib/apache2/modules")
OPENSSL = shutil.which("openssl")

SLOW = 0.5
"""Seconds that a page takes to be made, so that hints sent ahead of it can be told."""

needs_nginx = pytest.mark.skipif(not NGINX, reason="no nginx here: see scripts/test")
needs_apache = pytest.mark.skipif(
    not (APACHE and OPENSSL and MODULES.is_dir()),
    reason="no Apache, or no openssl for its certificate, here: see scripts/test",
)
needs_chromium = pytest.mark.skipif(
    not (CHROMIUM and DRIVER), reason="no Chromium with chromedriver here: see scripts/test"
)


def free_port() -> int:
    with socket.socket() as asked:
        asked.bind(("127.0.0.1", 0))
        return int(asked.getsockname()[1])


def block(published: Path, title: str) -> str:
    """A block of the page to paste from."""
    text = (published / "paste.html").read_text("utf-8")
    page = html5lib.parse(text, namespaceHTMLElements=False)
    return next(one.text or "" for one in page.iter("textarea") if one.get("aria-label") == title)


@contextmanager
def running(command: list[str], port: int) -> Iterator[None]:
    """A server, from when it answers."""
    with subprocess.Popen(command) as process:
        try:
            for _ in range(100):
                with socket.socket() as asked:
                    if asked.connect_ex(("127.0.0.1", port)) == 0:
                        break
                time.sleep(0.1)
            yield
        finally:
            process.terminate()


def links_of(address: str) -> str:
    """The ``Link`` headers that come with a file, as lines."""
    with urllib.request.urlopen(address, timeout=10) as answer:
        return "\n".join(f"Link: {one}" for one in answer.headers.get_all("Link"))


@needs_nginx
def test_nginx_sends_the_headers(demo: Any, tmp_path: Path) -> None:
    port = free_port()
    as_root = "user root;" if getpass.getuser() == "root" else ""
    config = tmp_path / "nginx.conf"
    config.write_text(
        f"{as_root} daemon off; pid {tmp_path}/pid; error_log {tmp_path}/log;\n"
        "events {} http { access_log off; server {\n"
        f"listen 127.0.0.1:{port}; root {demo.published};\n"
        f"{block(demo.published, 'HTTP headers with nginx')}}} }}\n",
        "utf-8",
    )
    with running([str(NGINX), "-c", str(config), "-p", str(tmp_path)], port):
        sent = links_of(f"http://127.0.0.1:{port}/head.html")
    assert header_hints(sent) == header_hints((demo.published / "headers.txt").read_text("utf-8"))


RAISED = "proxy_buffer_size 16k; proxy_busy_buffers_size 16k;"


@needs_nginx
@pytest.mark.parametrize(
    ("times", "more", "status"), [(1, "", 200), (6, "", 502), (6, RAISED, 200)]
)
def test_what_is_said_of_heavy_headers_is_so(
    demo: Any, tmp_path: Path, times: int, more: str, status: int
) -> None:
    """A server in front of another one takes ours; it refuses those of six such pages."""
    front, behind = free_port(), free_port()
    as_root = "user root;" if getpass.getuser() == "root" else ""
    (tmp_path / "nginx.conf").write_text(
        f"{as_root} daemon off; pid {tmp_path}/pid; error_log {tmp_path}/log;\n"
        "events {} http { access_log off;\n"
        f"server {{ listen 127.0.0.1:{behind}; root {demo.published};\n"
        f"{block(demo.published, 'HTTP headers with nginx') * times}}}\n"
        f"server {{ listen 127.0.0.1:{front};\n"
        f"location / {{ {more} proxy_pass http://127.0.0.1:{behind}; }} }} }}\n",
        "utf-8",
    )
    with running([str(NGINX), "-c", str(tmp_path / "nginx.conf"), "-p", str(tmp_path)], front):
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{front}/head.html") as answer:
                found = answer.status
        except urllib.error.HTTPError as error:
            found = error.code
    assert found == status
    values = (demo.published / "headers.txt").read_text("utf-8").splitlines()
    assert are_heavy([one.removeprefix("Link: ") for one in values] * times) == (times > 1)
    assert "answers 502" not in (demo.published / "paste.html").read_text("utf-8")


class Slow(SimpleHTTPRequestHandler):
    """A program behind the server that takes its time to make the page."""

    def do_GET(self) -> None:
        time.sleep(SLOW)
        super().do_GET()

    def log_message(self, *_: object) -> None:
        pass


class Apache:
    """One that serves a folder over HTTP and, encrypted, over HTTP/2."""

    def __init__(self, folder: Path, site: Path) -> None:
        self.folder, self.site, self._told = folder, site, 0
        self.plain, self.secure, self.behind = free_port(), free_port(), free_port()
        command = "req -x509 -newkey rsa:2048 -nodes -days 2 -subj /CN=localhost"
        files = ["-keyout", str(folder / "key.pem"), "-out", str(folder / "cert.pem")]
        subprocess.run([str(OPENSSL), *command.split(), *files], check=True, capture_output=True)

    @property
    def switch(self) -> str:
        """What has Chromium trust this certificate, and so keep what it fetched."""
        read = [str(OPENSSL), "x509", "-in", str(self.folder / "cert.pem"), "-pubkey", "-noout"]
        pem = subprocess.run(read, check=True, capture_output=True, text=True).stdout
        key = base64.b64decode("".join(pem.splitlines()[1:-1]))
        digest = base64.b64encode(hashlib.sha256(key).digest()).decode()
        return f"--ignore-certificate-errors-spki-list={digest}"

    @contextmanager
    def serving(self, locations: dict[str, str]) -> Iterator[None]:
        """While it runs, with lines of its own for each page; the pages are made slowly."""
        config = self.folder / "apache.conf"
        config.write_text(self._config(locations), "utf-8")
        handler = partial(Slow, directory=str(self.site))
        behind = ThreadingHTTPServer(("127.0.0.1", self.behind), handler)
        threading.Thread(target=behind.serve_forever, daemon=True).start()
        try:
            with running([str(APACHE), "-f", str(config), "-D", "FOREGROUND"], self.secure):
                yield
        finally:
            behind.shutdown()
            behind.server_close()

    def _config(self, locations: dict[str, str]) -> str:
        names = ("mpm_event", "authz_core", "mime", "headers", "ssl", "proxy", "proxy_http",
                 "http2", "unixd")  # fmt: skip
        loads = [
            f"LoadModule {name}_module {MODULES}/mod_{name}.so"
            for name in names
            if (MODULES / f"mod_{name}.so").is_file()
        ]
        pages = [
            f"ProxyPass /{page} http://127.0.0.1:{self.behind}/{page}\n"
            f"<Location /{page}>\n{lines}</Location>"
            for page, lines in locations.items()
        ]
        return "\n".join(
            [
                *loads,
                f"ServerRoot {self.folder}\nPidFile {self.folder}/pid\nServerName localhost",
                f"ErrorLog {self.folder}/error.log",
                *(["User nobody"] if getpass.getuser() == "root" else []),
                'Header set Cache-Control "max-age=3600"',
                "TypesConfig /dev/null\nAddType text/html .html\nAddType text/css .css",
                "AddType image/avif .avif\nAddType image/webp .webp",
                f"LogFormat %U short\nCustomLog {self.folder}/asked.log short",
                f"DocumentRoot {self.site}\n<Directory {self.site}>\nRequire all granted",
                "</Directory>\nProtocols h2 http/1.1\nH2EarlyHints on",
                f"Listen 127.0.0.1:{self.plain}\nListen 127.0.0.1:{self.secure}",
                f"<VirtualHost 127.0.0.1:{self.secure}>\nSSLEngine on",
                f"SSLCertificateFile {self.folder}/cert.pem",
                f"SSLCertificateKeyFile {self.folder}/key.pem\n</VirtualHost>",
                *pages,
            ]
        )

    def asked(self, browser: Browser) -> list[str]:
        """What was sent for the page that is open, in the order in which it was done.

        Lines come when all of an answer is on its way, so that the browser may have it before.
        """
        loaded = int(str(browser.evaluate('performance.getEntriesByType("resource").length'))) + 1
        for _ in range(100):
            new = self._log()[self._told :]
            if len(new) >= loaded:
                break
            time.sleep(0.1)
        time.sleep(0.7)  # for what the browser doesn't tell of
        names = self._log()
        new, self._told = names[self._told :], len(names)
        return [one.removeprefix("/") for one in new]

    def _log(self) -> list[str]:
        return (self.folder / "asked.log").read_text("utf-8").split()


def unhinted(published: Path) -> str:
    """The page to try, without hints, with the style sheet as a file."""
    text = (published / "try-it.html").read_text("utf-8")
    text = re.sub(r'<link rel="preload"[^>]*>\n?', "", text)
    assert "backdrops.css" in text
    return text.replace("</head>", '<link rel="stylesheet" href="backdrops.css"></head>', 1)


@pytest.fixture
def apache(demo: Any) -> Iterator[Apache]:
    """In a folder that anybody may read: started by root, Apache serves as somebody else."""
    with tempfile.TemporaryDirectory() as name:
        Path(name).chmod(0o755)
        yield prepared(Path(name), demo)


def prepared(folder: Path, demo: Any) -> Apache:
    site = folder / "site"
    shutil.copytree(demo.published, site)
    for name in ("headers.html", "early.html", "conditions.html"):
        (site / name).write_text(unhinted(site), "utf-8")
    return Apache(folder, site)


@pytest.mark.slow
@needs_apache
def test_apache_sends_the_headers(apache: Apache) -> None:
    lines = block(apache.site, "HTTP headers with Apache")
    with apache.serving({"headers.html": lines}):
        sent = links_of(f"http://127.0.0.1:{apache.plain}/headers.html")
    assert header_hints(sent) == header_hints((apache.site / "headers.txt").read_text("utf-8"))


@pytest.mark.slow
@needs_apache
@needs_chromium
def test_over_http2_each_window_fetches_the_hinted_file_once(apache: Apache) -> None:
    lines = block(apache.site, "HTTP headers with Apache")
    with apache.serving({"headers.html": lines}):
        browser = Browser(apache.switch)
        try:
            for width, height, density in ((390, 844, 3), (800, 600, 1.5), (1440, 900, 1)):
                page = f"https://localhost:{apache.secure}/headers.html"
                browser.open(page, width, height, density, touched=width < 900)
                read = "performance.getEntries().map((one) => [one.name, one.initiatorType,"
                entries: Any = browser.evaluate(f"{read} one.nextHopProtocol])")
                fetched = [one for one in entries if one[2]]
                assert {one[2] for one in fetched} == {"h2"}
                hinted = [one[0] for one in fetched if one[1] == "link" and "mill" in one[0]]
                asked = apache.asked(browser)
                assert len(hinted) == 1
                mill = [one for one in asked if "mill-at-dusk" in one]
                assert mill == [hinted[0].rpartition("/")[2]]
                assert len(asked) == len(set(asked))
        finally:
            browser.close()


def sent_ahead(apache: Apache, browser: Browser, page: str) -> set[str]:
    """What Chromium fetched before a page was there; each file once in all."""
    ahead = set[str]()
    for _ in range(3):
        browser.open(f"https://localhost:{apache.secure}/{page}", 1440, 900)
        asked = apache.asked(browser)
        assert len(asked) == len(set(asked))
        assert len([one for one in asked if "mill-at-dusk" in one]) == 1
        ahead |= set(asked[: asked.index(page)])
    return ahead


@pytest.mark.slow
@needs_apache
@needs_chromium
def test_early_hints_are_taken_where_every_screen_needs_them(apache: Apache) -> None:
    said = (apache.site / "headers.txt").read_text("utf-8").splitlines()
    conditions = [one.removeprefix("Link: ").replace('"', '\\"') for one in said]
    locations = {
        "early.html": block(apache.site, "Early hints with Apache"),
        "conditions.html": "".join(f'H2EarlyHint Link "{one}"\n' for one in conditions),
    }
    with apache.serving(locations):
        browser = Browser(apache.switch)
        try:
            assert sent_ahead(apache, browser, "early.html") == {"backdrops.css"}
            # Why pictures with conditions aren't among them: Chromium passes over them there.
            assert sent_ahead(apache, browser, "conditions.html") == set()
        finally:
            browser.close()
