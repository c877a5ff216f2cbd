"""Input that means harm, and damage: a clear message, the right status, and nothing else."""

from __future__ import annotations

import gc
import json
import random
import re
import shutil
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import pytest
from bench.hostile import keeping, media, texts
from bench.hostile.__main__ import KINDS, tried
from bench.hostile.case import mutated
from PIL import Image

from brightcanvas.brief.loading import load_brief
from brightcanvas.demo.host import host
from brightcanvas.formats.loaded import Loaded, load
from brightcanvas.formats.pictures.picture_reading import picture_of
from brightcanvas.formats.survey import survey, survey_of
from brightcanvas.page import http_client
from brightcanvas.page.folder import folder_of
from brightcanvas.page.page_load import load as load_page
from brightcanvas.page.reading import read_page
from brightcanvas.tasks.sources import Source
from brightcanvas.terminal.streams import harmless
from brightcanvas.values.environments import Environment
from brightcanvas.values.errors import BriefError, SourceError
from brightcanvas.values.file_formats import ClipFormat

from .conftest import Ran, call, noise, save_noise, write_brief

POSIX = pytest.mark.skipif(sys.platform == "win32", reason="another shell")
DRAWING = media.DRAWING


@pytest.mark.slow
@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("kind", KINDS)
def test_nothing_gets_through(kind: str, seed: int) -> None:
    """A few of the cases that ``python -m bench.hostile`` has without end."""
    case = KINDS[kind](random.Random(f"{kind} {seed}"))
    found = tried(case, seed, None)
    assert found.faults == (), (case.name, case.call, found.told[-2000:])


SAFETY = Path(__file__).parent.parent / "docs/safety.md"


def test_every_promise_names_a_test_that_is_there() -> None:
    named = re.findall(r"`tests/(\w+)\.py::(\w+)`", SAFETY.read_text("utf-8"))
    rows = [one for one in SAFETY.read_text("utf-8").splitlines() if one.startswith("| ")]
    assert len(named) == len(rows) - 4 > 30  # but for the heads of four tables
    for module, name in named:
        text = (Path(__file__).parent / f"{module}.py").read_text("utf-8")
        assert f"def {name}(" in text, (module, name)


def test_pages_without_measure_are_read_in_part(tmp_path: Path) -> None:
    """Frames within frames 20 x 20 x 20, and far more elements than anybody wrote."""
    hero = "<!doctype html><style>.a { background: url(a.png) }</style><p class=a>x"
    for depth in range(4):
        frames = f"<iframe src={depth + 1}.html></iframe>" * (20 if depth < 3 else 0)
        (tmp_path / f"{depth}.html").write_text(hero + frames, "utf-8")
    many = "".join(f"<div class=b{number % 50}><i>x</i></div>" for number in range(30_000))
    (tmp_path / "many.html").write_text(hero + many, "utf-8")
    for name, says in (("0", "frames beyond the first 40"), ("many", "beyond the first 20000")):
        began = time.process_time()
        ran = call("inspect", tmp_path / f"{name}.html")
        assert (says in ran.out, time.process_time() - began < 60) == (True, True), ran.out


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP", "AVIF", "GIF"])
def test_whatever_a_codec_raises_is_told_with_the_files_name(kind: str, tmp_path: Path) -> None:
    by = random.Random(kind)
    whole = media.picture(kind, "P" if kind == "GIF" else "RGB")
    for _ in range(60):
        file = Loaded(tmp_path / "mill.picture", mutated(whole, by))
        told = "mill.picture"
        try:
            survey_of(file)
            picture_of(file)
        except SourceError as error:
            told = str(error)
        assert "mill.picture" in told


class TestSourcesThatChange:
    """The bytes that are hashed are the bytes that are decoded."""

    def test_a_picture_that_is_another_one_now_is_refused(self, tmp_path: Path) -> None:
        path = save_noise(tmp_path / "a.png", 60, 40)
        source = Source.of(survey(path))
        Image.fromarray(noise(60, 40, seed=5)).save(path)
        with pytest.raises(SourceError, match="was changed while it was used"):
            source.load()

    def test_a_clip_that_changes_while_it_is_read_is_refused(self, tmp_path: Path) -> None:
        path = tmp_path / "a.mp4"
        path.write_bytes(media.clip(ClipFormat.H264))
        source = Source.of(survey(path))
        with source.held():
            pass
        with pytest.raises(SourceError, match="was changed while it was used"), source.held():
            path.write_bytes(media.clip(ClipFormat.H264)[:-1] + b"x")

    @pytest.mark.slow
    def test_a_swap_during_a_build_poisons_nothing(
        self, small: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        assert call("build", small).status == 0
        wanted = published(small)
        shutil.rmtree(small.parent / ".bright-canvas")
        shutil.rmtree(small.parent / "published")
        picture = small.parent / "picture.jpg"
        before = picture.read_bytes()

        def swapped(path: Path) -> Loaded:
            Image.fromarray(noise(450, 300, seed=8)).save(picture)
            return load(path)

        with monkeypatch.context() as patch:
            patch.setattr("brightcanvas.tasks.sources.load", swapped)
            ran = call("build", small)
        assert (ran.status, "was changed while it was used" in ran.err) == (3, True)
        picture.write_bytes(before)
        assert call("build", small).status == 0
        assert published(small) == wanted


def published(brief: Path) -> dict[str, bytes]:
    return {path.name: path.read_bytes() for path in (brief.parent / "published").iterdir()}


class _Host(BaseHTTPRequestHandler):
    def log_message(self, *_: object) -> None:
        pass

    def do_GET(self) -> None:
        self.server.asked.append(self.path)  # type: ignore[attr-defined]
        if self.path == "/on":
            self.send_response(302)
            self.send_header("Location", self.server.elsewhere)  # type: ignore[attr-defined]
            self.end_headers()
        elif self.path == "/endless":
            self.send_response(200)
            self.end_headers()
            for _ in range(10_000):
                self.wfile.write(b"x" * 100_000)
        elif self.path == "/drip":
            for _ in range(100):
                self.wfile.write(b"HTTP/1.1 200 OK"[:1])
                time.sleep(0.1)
        else:
            self.wfile.write(b"\xff\x00nonsense\r\n\r\n")


@contextmanager
def hosting(elsewhere: str = "") -> Iterator[tuple[str, list[str]]]:
    server = ThreadingHTTPServer(("127.0.0.1", 0), _Host)
    server.asked, server.elsewhere = [], elsewhere  # type: ignore[attr-defined]
    server.handle_error = lambda *_: None  # type: ignore[method-assign]
    threading.Thread(target=server.serve_forever, daemon=True).start()
    with server:
        yield f"http://127.0.0.1:{server.server_port}", server.asked  # type: ignore[attr-defined]
        server.shutdown()
    gc.collect()  # sockets of requests that were given up are closed here, and not in another test


@pytest.mark.filterwarnings("ignore::pytest.PytestUnraisableExceptionWarning")
class TestTheNetwork:
    @POSIX
    @pytest.mark.slow
    def test_a_brief_does_not_reach_it(self, tmp_path: Path) -> None:
        with hosting() as (address, asked):
            port = address.rpartition(":")[2]
            place = tmp_path / f"http:/127.0.0.1:{port}"
            place.mkdir(parents=True)
            (place / "a.mp4").write_bytes(media.clip(ClipFormat.H264))
            (tmp_path / "12:30.mp4").write_bytes(media.clip(ClipFormat.H264))
            for source in (f"http:/127.0.0.1:{port}/a.mp4", "12:30.mp4"):
                text = f'[[backdrop]]\nsource = "{source}"\nelement = ".a"\nheight = "90px"\n'
                ran = call("plan", write_brief(tmp_path, text))
                assert ran.status == 0, ran.err
            assert asked == []

    def test_a_list_that_calls_itself_a_clip_is_none(self, tmp_path: Path) -> None:
        with hosting() as (address, asked):
            (tmp_path / "a.mp4").write_bytes(f"#EXTM3U\n{address}/a.ts\n".encode())
            (tmp_path / "b.mp4").write_bytes(f"\0\0\0\x18ftypisom\n#EXTM3U\n{address}/a".encode())
            for name in ("a.mp4", "b.mp4"):
                with pytest.raises(SourceError):
                    survey(tmp_path / name)
            assert asked == []

    def test_no_redirection_is_followed_to_another_port(self) -> None:
        with hosting() as (other, never), hosting(f"{other}/secret") as (address, _):
            with pytest.raises(http_client.NotFetchedError, match="not followed"):
                http_client.fetch(f"{address}/on")
            assert never == []
        refused = pytest.raises(http_client.NotFetchedError)
        with hosting("file:///etc/hostname") as (address, _), refused:
            http_client.fetch(f"{address}/on")

    @pytest.mark.parametrize("path", ["endless", "drip", "nonsense"])
    def test_what_a_host_does_is_bounded(self, path: str, monkeypatch: pytest.MonkeyPatch) -> None:
        monkeypatch.setattr(http_client, "LARGEST", 1_000_000)
        monkeypatch.setattr(http_client, "TIMEOUT", 1)
        monkeypatch.setattr(http_client, "SILENCE", 1)
        with hosting() as (address, _), pytest.raises(http_client.NotFetchedError):
            http_client.fetch(f"{address}/{path}")

    @pytest.mark.parametrize("address", ["file:///etc/passwd", "ftp://a/b", "http://[", "data:,a"])
    def test_only_web_addresses_are_fetched(self, address: str) -> None:
        with pytest.raises(http_client.NotFetchedError):
            http_client.fetch(address)


class TestDrawings:
    @pytest.mark.slow
    @pytest.mark.parametrize("name", ["turbulence", "offset", "layers", "masks"])
    def test_one_that_explodes_is_refused_with_the_reason(
        self, name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        monkeypatch.setenv("BRIGHT_CANVAS_DRAWING_SECONDS", "2")
        path = tmp_path / "a.svg"
        path.write_text(DRAWING.format(inner=media.EXPLODING[name]), encoding="utf-8")
        began = time.monotonic()
        ran = call("crop", path, "--to", "30x20", "--output", tmp_path / "a.png")
        assert (ran.status, "a.svg: " in ran.err) == (3, True)
        assert time.monotonic() - began < 30

    def test_an_unknown_encoding_is_told(self, tmp_path: Path) -> None:
        path = tmp_path / "a.svg"
        path.write_text(f'<?xml version="1.0" encoding="x-odd"?>{DRAWING.format(inner="")}')
        assert call("compress", path).status == 3


@pytest.mark.slow
@pytest.mark.parametrize("make", ["_gif_bomb", "_apng_bomb", "_png_bomb", "_jpeg_bomb"])
def test_bombs_are_refused_before_they_are_decoded(make: str, tmp_path: Path) -> None:
    for seed in range(3):
        name, content = getattr(media, make)(random.Random(seed))
        (tmp_path / name).write_bytes(content)
        began = time.monotonic()
        ran = call("compress", tmp_path / name, "--into", tmp_path / f"new{seed}")
        assert ran.status in (0, 3)
        assert time.monotonic() - began < 30


def test_a_pretended_host_follows_no_link_out_of_its_folder(tmp_path: Path) -> None:
    (tmp_path / "secret.txt").write_text("mine")
    folder = tmp_path / "site"
    folder.mkdir()
    (folder / "a.txt").write_text("ours")
    try:
        (folder / "out").symlink_to(tmp_path)
    except OSError:
        pytest.skip("links need rights here")
    with host(folder, 0, 60) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        for path, wanted in (("/a.txt", b"200"), ("/out/secret.txt", b"404"), ("/%00", b"404")):
            with socket.create_connection(("127.0.0.1", server.server_port)) as line:
                line.sendall(f"GET {path} HTTP/1.0\r\n\r\n".encode())
                assert wanted in line.recv(200), path
        server.shutdown()


class TestPages:
    """Each of the sheets and pieces of markup by itself."""

    @staticmethod
    def _choices(make: Callable[[random.Random], str]) -> list[str]:
        """All that it chooses among."""
        found: list[str] = []

        class Every(random.Random):
            def choice(self, seq: Any) -> Any:
                found.extend(seq)
                return seq[0]

        make(Every())
        return found

    @pytest.mark.slow
    def test_every_sheet_and_every_markup_is_read_within_bounds(self, tmp_path: Path) -> None:
        cases = [(sheet, "<p>") for sheet in self._choices(texts._sheet)]
        cases += [("", markup) for markup in self._choices(texts._markup)]
        for sheet, markup in cases:
            (tmp_path / "page.css").write_text(sheet, encoding="utf-8")
            (tmp_path / "page.html").write_text(
                f"<!doctype html><link rel=stylesheet href=page.css>{markup}<p class=a>x",
                encoding="utf-8",
            )
            began = time.process_time()
            told = "page.html"
            try:
                load_page(read_page(folder_of(tmp_path / "page.html")), Environment(800, 600))
            except BriefError as error:
                told = str(error)
            assert "page.html" in told
            assert time.process_time() - began < 20, (sheet[:50], markup[:50])

    def test_what_was_left_out_is_told(self, tmp_path: Path) -> None:
        (tmp_path / "page.html").write_text(
            f"<style>{'a,b{' * 30}color:red{'}' * 30}</style><p>", encoding="utf-8"
        )
        reading = read_page(folder_of(tmp_path / "page.html")).reading
        assert reading.unread
        assert all(len(one) < 120 for one in reading.unread)


BRIEFS = {
    "layer": '[site]\nlayer = "initial"\n{backdrop}',
    "layer inside": '[site]\nlayer = "site.unset"\n{backdrop}',
    "deep": "a = " + "[" * 5000 + "]" * 5000,
    "tables": "a = " + "{a=" * 2000 + "1" + "}" * 2000,
    "long number": f"[site]\nwidest = {'9' * 400}\n{{backdrop}}",
    "endless number": f"[site]\nwidest = {'9' * 5000}\n{{backdrop}}",
    "inf": "[site]\nwidest = inf\n{backdrop}",
    "nan": "{backdrop}poster_at = nan\n",
    "infinite height": "{backdrop}".replace("90px", "1e999px"),
    "selector": "{backdrop}".replace(".a", ":not(" * 300 + "a" + ")" * 300),
    "output": f'[site]\noutput = "{"a" * 256}"\n{{backdrop}}',
    "room": '[site]\nroom = "1e999 MB"\n{backdrop}',
    "end": "{backdrop}[backdrop.clip]\nend = inf\n",
}
BACKDROP = '[[backdrop]]\nsource = "a.jpg"\nelement = ".a"\nheight = "90px"\n'


@pytest.mark.parametrize("name", BRIEFS)
def test_briefs_without_measure_are_mistakes_and_nothing_worse(name: str, tmp_path: Path) -> None:
    save_noise(tmp_path / "a.jpg", 60, 40)
    backdrop = BACKDROP
    if name == "infinite height":
        backdrop = backdrop.replace("90px", "1e999px")
    if name == "selector":
        backdrop = backdrop.replace(".a", ":not(" * 300 + "a" + ")" * 300)
    text = BRIEFS[name].replace("{backdrop}", backdrop)
    ran = call("build", write_brief(tmp_path, text), "--json")
    assert ran.status == 2, ran.err
    assert ran.facts["errors"]


def test_a_stretch_that_is_not_there_is_told(tmp_path: Path) -> None:
    (tmp_path / "a.mp4").write_bytes(media.clip(ClipFormat.H264))
    ran = call("transcode", tmp_path / "a.mp4", "--begin", "50")
    assert (ran.status, "nothing begins at 50 s" in ran.err) == (2, True)


class TestOutput:
    def _shell(self, line: str, folder: Path) -> Ran:
        program = f'"{sys.executable}" -m brightcanvas'
        command = ["bash", "-c", f"set -o pipefail; {line.replace('bright-canvas', program)}"]
        ran = subprocess.run(command, cwd=folder, capture_output=True, text=True, check=False)
        assert "Traceback" not in ran.stderr
        assert "Exception ignored" not in ran.stderr
        return Ran(ran.returncode, ran.stdout, ran.stderr)

    @POSIX
    @pytest.mark.slow
    @pytest.mark.parametrize(
        ("line", "status"),
        [
            ("bright-canvas plan > /dev/full", 4), ("bright-canvas plan --json > /dev/full", 4),
            ("bright-canvas plan >&-", 0), ("bright-canvas plan none.toml 2>&-", 2),
            ("bright-canvas crop none.jpg --to 9x9 2>&-", 3),
            ("LC_ALL=C PYTHONIOENCODING=ascii bright-canvas plan --json", 0),
            ("bright-canvas plan none.toml 2> /dev/full", 2),
        ],
    )  # fmt: skip
    def test_closed_full_or_of_few_characters(self, small: Path, line: str, status: int) -> None:
        assert self._shell(line, small.parent).status == status

    @POSIX
    @pytest.mark.slow
    def test_a_reader_that_goes_away_means_no_broken_promise(self, small: Path) -> None:
        ran = self._shell("bright-canvas plan | true; echo ${PIPESTATUS[0]}", small.parent)
        assert ran.out.strip() in ("0", "4")

    @pytest.mark.parametrize(
        "arguments",
        [
            ["plan", "--odd"],
            ["odd"],
            ["crop"],
            ["crop", "a.jpg", "--to", "9"],
            [],
            ["build", "x.toml"],
        ],
    )
    def test_machines_are_told_of_every_mistake(self, arguments: list[str]) -> None:
        ran = call(*arguments, "--json")
        assert ran.status == 2
        assert (ran.facts["status"], len(ran.facts["errors"]) > 0) == (2, True)

    def test_machines_are_told_when_somebody_stops_it(
        self, small: Path, monkeypatch: pytest.MonkeyPatch
    ) -> None:
        def stop(*_: object) -> None:
            raise KeyboardInterrupt

        monkeypatch.setattr("brightcanvas.pipeline.building.plan_as_built", stop)
        monkeypatch.setattr("brightcanvas.plan.planning.facts_of", stop)
        ran = call("plan", small, "--json")
        assert (ran.status, ran.facts["status"]) == (130, 130)

    def test_names_command_no_terminal(self, tmp_path: Path) -> None:
        name = "a\x1b]0;owned\x07\x1b[2J\u202e.jpg"
        assert harmless(name) == "a?]0;owned??[2J?.jpg"
        ran = call("crop", tmp_path / name, "--to", "9x9")
        assert ran.status == 3
        assert not set("\x1b\x07\u202e") & set(ran.err)
        save_noise(tmp_path / name, 60, 40)
        ran = call("compress", tmp_path / name)
        assert ran.status == 0
        assert not set("\x1b\x07\u202e") & set(ran.out)

    @POSIX
    def test_names_that_are_no_text(self, tmp_path: Path, small: Path) -> None:
        odd = Path(str(tmp_path) + "/\udcff.jpg")
        shutil.copy(small.parent / "picture.jpg", odd)
        ran = call("compress", odd, "--json")
        assert ran.status == 0
        assert json.loads(ran.out.encode("utf-8", "backslashreplace"))
        long = call("compress", tmp_path / ("a" * 300 + ".jpg"))
        assert long.status == 3


def test_the_harness_builds_what_it_damages() -> None:
    """Else all of its cases would be the same one."""
    assert any(name.startswith("published/") for name in keeping.built())
    names: set[str] = {KINDS["picture"](random.Random(one)).name for one in range(30)}
    assert len(names) > 4


@pytest.mark.slow
def test_links_that_lead_round_in_a_circle_are_told(tmp_path: Path) -> None:
    page = tmp_path / "page.html"
    page.symlink_to(page)
    for command in (("begin", page, "--browser", "none"), ("inspect", page)):
        ran = call(*command)
        assert ran.status == 2, ran.err
        assert "circle" in ran.err or "no page is there" in ran.err


def test_a_brief_that_is_a_device_is_refused() -> None:
    if not Path("/dev/zero").exists():
        pytest.skip("no devices here")
    with pytest.raises(BriefError, match="can't be read"):
        load_brief(Path("/dev/zero"))
    assert call("crop", "/dev/zero", "--to", "9x9").status == 3
