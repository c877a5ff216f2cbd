"""The page's server: who gets in, what it proves, what it writes, and the way back."""

from __future__ import annotations

import json
import os
import random
import shutil
import signal
import socket
import subprocess
import sys
import threading
import time
import urllib.request
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

import pytest
from bench.hostile.drivers import edit

from brightcanvas.adjusting.adjust_page import SCRIPTS, inert_json, part_of_page
from brightcanvas.adjusting.server import AT_ONCE, LONGEST, AdjustServer
from brightcanvas.adjusting.session import ConflictError, Session, started
from brightcanvas.brief.rewriting import Change
from brightcanvas.values.errors import BriefError
from brightcanvas.values.files import LARGEST_SOURCE

from .conftest import call, save_noise, wait, write_brief

BRIEF = """\
# Mine.
[site]
title = "<script>alert(1)</script>"

[[backdrop]]
name = "top"
source = "picture.jpg"   # the best of all
element = ".a"
height = "300px"
subject = { box = [0.3, 0.3, 0.5, 0.6] }
copy = { box = [0.6, 0.2, 0.9, 0.8], clear_of_subject = true, colour = "white", size = 32 }
"""
TOP = ("top", "")


@pytest.fixture
def brief(tmp_path: Path) -> Path:
    save_noise(tmp_path / "picture.jpg", 900, 600)
    return write_brief(tmp_path, BRIEF)


@pytest.fixture
def session(brief: Path) -> Iterator[Session]:
    session = Session(brief, LARGEST_SOURCE)
    yield session
    session.close()


@pytest.fixture
def server(session: Session) -> Iterator[AdjustServer]:
    server = AdjustServer(session)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    yield server
    server.shutdown()
    server.server_close()


def asked(
    server: AdjustServer, path: str, body: Any = None, **headers: str | None
) -> tuple[int, bytes]:
    """Ask with everything that the page sends, but for what is given; None: it is left out."""
    host = f"127.0.0.1:{server.server_port}"
    said: dict[str, str | None] = {
        "Host": host,
        "Origin": f"http://{host}",
        "Content-Type": "application/json",
    }
    said |= {name.replace("_", "-"): value for name, value in headers.items()}
    content = json.dumps(body).encode() if body is not None else None
    connection = HTTPConnection("127.0.0.1", server.server_port, timeout=20)
    connection.putrequest("GET" if content is None else "POST", path, skip_host=True)
    length = {"Content-Length": str(len(content))} if content is not None else {}
    for name, value in {**length, **said}.items():
        if value is not None:
            connection.putheader(name, value)
    connection.endheaders(content)
    answer = connection.getresponse()
    found = answer.status, answer.read()
    connection.close()
    return found


class TestWhoGetsIn:
    @pytest.mark.parametrize(("path", "headers"), [
        ("/", {}),
        ("/wrong-key/", {}),
        ("KEY", {"Host": "evil.example"}),
        ("KEY", {"Host": None}),
        ("KEY", {"Origin": "http://evil.example"}),
        ("KEY", {"Origin": "null"}),
        ("KEY", {"Sec-Fetch-Site": "cross-site"}),
    ])  # fmt: skip
    @pytest.mark.parametrize("body", [None, {"changes": [], "seen": ""}])
    def test_nobody_else(
        self, server: AdjustServer, brief: Path, path: str, headers: dict[str, Any], body: Any
    ) -> None:
        place = path.replace("KEY", f"/{server.key}/{'save' if body else ''}")
        assert asked(server, place, body, **headers)[0] == 403
        assert brief.read_text() == BRIEF

    def test_it_listens_on_this_machine_alone(self, server: AdjustServer) -> None:
        assert server.server_address[0] == "127.0.0.1"
        assert len(server.key) >= 32
        assert server.key in server.address

    @pytest.mark.parametrize("path", [
        "../brief.toml", "draft/../../brief.toml", "look/..%2f..%2fbrief.toml", "draft/brief.toml",
        "adjust.js/../../brief.toml", "pages/adjust.js", "%2e%2e/brief.toml",
    ])  # fmt: skip
    def test_no_other_file_is_read(self, server: AdjustServer, path: str) -> None:
        status, content = asked(server, f"/{server.key}/{path}")
        assert (status, b"best of all" in content) == (404, False)

    def test_what_is_too_much_or_no_json_is_not_read(self, server: AdjustServer) -> None:
        place = f"/{server.key}/save"
        with socket.create_connection(("127.0.0.1", server.server_port), timeout=10) as line:
            head = (
                f"POST {place} HTTP/1.1\r\nHost: 127.0.0.1:{server.server_port}\r\n"
                "Content-Type: application/json\r\nContent-Length: 100000000\r\n\r\n"
            )
            line.sendall(head.encode())
            assert line.recv(1000).startswith(b"HTTP/1.1 413")
        assert asked(server, place, {"seen": "x" * LONGEST})[0] == 413
        assert asked(server, place, [1])[0] == 400
        assert asked(server, place, {"changes": "all", "seen": ""})[0] == 400
        assert asked(server, place, {"seen": ""}, Content_Type="text/plain")[0] == 415
        assert asked(server, f"/{server.key}/format", {})[0] == 404

    def test_500_at_once_and_then_the_page_still_answers(
        self, server: AdjustServer, brief: Path
    ) -> None:
        idle = [
            socket.create_connection(("127.0.0.1", server.server_port)) for _ in range(AT_ONCE // 2)
        ]
        with ThreadPoolExecutor(50) as pool:
            body = {
                "changes": [{"backdrop": "top", "breakpoint": "", "key": "height", "value": "1px"}]
            }
            found = list(pool.map(lambda _: asked(server, "/no-key/save", body)[0], range(500)))
        assert found == [403] * 500
        assert brief.read_text() == BRIEF
        assert asked(server, f"/{server.key}/")[0] == 200
        for one in idle:
            one.close()

    def test_those_without_the_key_delay_nobody(self, server: AdjustServer) -> None:
        """More connections than there is room for, silent or dripping; the page comes at once."""
        address = ("127.0.0.1", server.server_port)
        idle = [socket.create_connection(address) for _ in range(3 * AT_ONCE)]
        for one in idle[::2]:
            with suppress(OSError):  # some are turned out already
                one.sendall(b"GET / HT")
        began = time.monotonic()
        assert asked(server, f"/{server.key}/")[0] == 200
        assert time.monotonic() - began < 3
        for one in idle:
            one.close()

    @pytest.mark.parametrize("value", [
        "\ud800", {"\udfff": 1}, [[["\ud83d"]]], 1e400, -0.0, "\0", "x" * 60_000, "NESTED",
    ])  # fmt: skip
    @pytest.mark.parametrize("way", ["scene", "save", "frame", "suggest", "news", "http://[/"])
    def test_every_request_is_answered(
        self, server: AdjustServer, brief: Path, value: Any, way: str
    ) -> None:
        nested: Any = 1
        for _ in range(900 if value == "NESTED" else 0):
            nested = [nested]
        value = nested if value == "NESTED" else value
        change = {"backdrop": "top", "breakpoint": "", "key": "subject", "value": value}
        for body in (
            {"backdrop": "top", "seen": "", "changes": [change]},
            {"backdrop": value, "view": value, "second": value, "number": value, "seen": value},
        ):
            assert asked(server, f"/{server.key}/{way}", body)[0] in range(200, 500)
        assert brief.read_text() == BRIEF

    def test_a_draft_that_is_a_link_or_a_pipe_is_not_shown(
        self, server: AdjustServer, session: Session, tmp_path: Path
    ) -> None:
        stop = threading.Event()
        threads = started(session, stop)
        wait(lambda: session.news.draft is not None)
        draft = session.news.draft
        assert draft is not None
        first, second, third, *_ = draft.pictures
        secret = tmp_path / "secret.txt"
        secret.write_text("mine")
        for name in (first, second):
            (draft.folder / name).unlink()
        (draft.folder / first).symlink_to(secret)
        if hasattr(os, "mkfifo"):
            os.mkfifo(draft.folder / second)
        assert [asked(server, f"/{server.key}/draft/{one}")[0] for one in (first, second)] == [
            404, 404,
        ]  # fmt: skip
        assert asked(server, f"/{server.key}/draft/{third}")[0] == 200
        stop.set()
        for one in threads:
            one.join(20)

    def test_a_page_that_runs_nothing_but_its_own(self, server: AdjustServer) -> None:
        connection = HTTPConnection("127.0.0.1", server.server_port)
        connection.request("GET", f"/{server.key}/")
        answer = connection.getresponse()
        policy, page = answer.getheader("Content-Security-Policy", ""), answer.read().decode()
        connection.close()
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
        assert "<script>alert" not in page
        assert page.count("<script") == page.count('<script src="') == 4
        parts = [part_of_page(name) for name in SCRIPTS]
        assert not any("http:" in one or "//" in one for one in parts)
        assert sum(len(one.encode()) for one in parts) < 60_600

    @pytest.mark.parametrize("value", [
        {"name": 'x"\n[evil]', "below": 500}, {"name": "x", "below": "500"}, "x", {"name": "x"},
    ])  # fmt: skip
    def test_a_breakpoint_is_a_breakpoint(
        self, server: AdjustServer, session: Session, brief: Path, value: Any
    ) -> None:
        change = {"backdrop": "", "breakpoint": "", "key": "breakpoint", "value": value}
        body = {"changes": [change], "seen": session.said().brief.digest}
        assert asked(server, f"/{server.key}/save", body)[0] == 400
        assert brief.read_text() == BRIEF

    @pytest.mark.parametrize(("key", "value"), [
        ("element", "*"), ("output", "/tmp"), ("height", 'x"\nevil = 1'), ("source", "a\nb"),
        ("subject", {"box": [2, 2, 3, 3]}), ("subject", [[[[[]]]]]), ("copy", "none"),
    ])  # fmt: skip
    def test_what_a_brief_would_refuse_is_not_written(
        self, server: AdjustServer, session: Session, brief: Path, key: str, value: Any
    ) -> None:
        change = {"backdrop": "top", "breakpoint": "", "key": key, "value": value}
        body = {"changes": [change], "seen": session.said().brief.digest}
        status, said = asked(server, f"/{server.key}/save", body)
        assert status == 422
        assert json.loads(said)["mistake"]
        assert brief.read_text() == BRIEF


def test_hostile_text_stays_inert() -> None:
    text = inert_json({"title": "</script><script>alert(1)//", "more": "<!--&\u2028"})
    assert not set("<>&") & set(text)
    assert json.loads(text)["title"] == "</script><script>alert(1)//"


def state_of(scene: Any, promise: str) -> set[str]:
    return {one["state"] for one in scene["verdicts"] if one["promise"] == promise}


class TestWhatIsProved:
    def test_changes_that_are_not_saved_are_proved_and_leave_no_trace(
        self, session: Session, brief: Path
    ) -> None:
        scene = session.scene("top")
        assert state_of(scene, "clear of the subject") == {"holds"}
        over = {"box": [0.0, 0.0, 1.0, 1.0], "clear_of_subject": True, "colour": "white"}
        scene = session.scene("top", [Change(*TOP, "copy", over)])
        assert "broken" in state_of(scene, "clear of the subject")
        assert brief.read_text() == BRIEF

    def test_each_way_out_that_is_a_button_mends_it(self, session: Session) -> None:
        wide = {"box": [0.02, 0.3, 0.98, 0.6]}
        scene = session.scene("top", [Change(*TOP, "subject", wide), Change(*TOP, "copy", None)])
        broken = [one for one in scene["verdicts"] if one["state"] == "broken"]
        assert broken
        offers = [offer for one in broken for offer in one["offers"]]
        assert any("as large" in one["says"] for one in offers)
        for offer in offers:
            changes = [Change(**one) for one in offer["changes"]]
            before = [Change(*TOP, "subject", wide), Change(*TOP, "copy", None)]
            mended = session.scene("top", [*before, *changes])
            left = [v for v in mended["verdicts"] if v["state"] == "broken"]
            assert len(left) < len(broken), offer["says"]

    def test_the_least_scrim_is_offered_where_copy_can_not_be_read(self, session: Session) -> None:
        scene = session.scene("top")
        [low, *_] = [v for v in scene["verdicts"] if v["promise"] == "readable"]
        assert low["state"] == "broken"
        [offer] = low["offers"]
        changes = [Change(*TOP, "scrim", offer["changes"][0]["value"])]
        mended = session.scene("top", changes)
        assert state_of(mended, "readable") == {"holds"}
        assert all(one["scrim"]["css"].startswith("linear-gradient(") for one in mended["views"])

    def test_what_flows_down_is_told_with_where_it_is_from(self, session: Session) -> None:
        changes = [Change("top", "midsize", "height", "200px")]
        written = session.scene("top", changes)["written"]
        assert [written[name]["height"] for name in ("desk", "midsize", "handheld")] == [
            ["300px", ""], ["200px", "midsize"], ["200px", "midsize"],
        ]  # fmt: skip

    def test_a_box_without_a_picture_has_its_padding_too(self, session: Session) -> None:
        changes = [Change(*TOP, "plain", True), Change(*TOP, "padding", "200px")]  # noqa: FBT003
        above = [one["element"]["padding"][0] for one in session.scene("top", changes)["views"]]
        assert above
        assert all(one == {"number": 200.0, "unit": ""} for one in above)

    def test_a_source_that_changes_is_looked_at_anew(self, session: Session, brief: Path) -> None:
        before = session.scene("top")["views"][0]["picture"]
        save_noise(brief.parent / "picture.jpg", 1000, 600)
        after = session.scene("top")["views"][0]["picture"]
        assert (before["size"], after["size"]) == ([900, 600], [1000, 600])
        assert session.looks.file(after["look"]) is not None


SUBJECT = {"box": [0.2, 0.3, 0.4, 0.6]}
HEIGHT = Change(*TOP, "height", "200px")


class TestSaving:
    def test_it_writes_that_one_line_and_the_way_back_is_exact(
        self, session: Session, brief: Path
    ) -> None:
        seen = session.said().brief.digest
        told = session.save([Change(*TOP, "subject", SUBJECT)], seen)
        assert told["texts"] == ["subject = { box = [0.2, 0.3, 0.4, 0.6] }"]
        assert told["lines"] == [10]
        assert (told["undo"], told["redo"]) == (True, False)
        after = brief.read_bytes()
        assert after != BRIEF.encode()
        session.save([HEIGHT], told["digest"])
        session.back(-1)
        assert brief.read_bytes() == after
        assert session.back(-1)["undo"] is False
        assert brief.read_bytes() == BRIEF.encode()
        with pytest.raises(BriefError, match="nothing to undo"):
            session.back(-1)
        session.back(1)
        assert brief.read_bytes() == after

    def test_what_an_editor_changed_elsewhere_is_kept(self, session: Session, brief: Path) -> None:
        seen = session.said().brief.digest
        brief.write_text(BRIEF.replace('"300px"', '"350px"') + "# and more\n")
        session.save([Change(*TOP, "subject", SUBJECT)], seen)
        assert 'height = "350px"' in brief.read_text()
        assert "0.2, 0.3, 0.4, 0.6" in brief.read_text()
        assert brief.read_text().endswith("# and more\n")

    def test_the_same_value_changed_in_both_places_is_told(
        self, session: Session, brief: Path
    ) -> None:
        seen = session.said().brief.digest
        theirs = BRIEF.replace('"300px"', '"350px"')
        brief.write_text(theirs)
        with pytest.raises(ConflictError) as told:
            session.save([HEIGHT], seen)
        assert told.value.theirs == [{"place": ["top", "", "height"], "value": "350px"}]
        assert brief.read_text() == theirs
        session.save([HEIGHT], told.value.digest)
        assert 'height = "200px"' in brief.read_text()

    def test_undo_never_takes_back_what_an_editor_wrote(
        self, session: Session, brief: Path
    ) -> None:
        session.save([HEIGHT], session.said().brief.digest)
        brief.write_text(brief.read_text() + "# mine\n")
        with pytest.raises(BriefError, match="changed in an editor"):
            session.back(-1)
        assert brief.read_text().endswith("# mine\n")

    def test_an_editor_that_saves_at_the_same_moment_loses_nothing(
        self, session: Session, brief: Path
    ) -> None:
        """Every line that it adds is in the brief in the end, or in a text beside it."""
        lines, number = [f"# line {number}\n" for number in range(40)], 0
        editor = threading.Thread(target=edit, args=(brief, lines, random.Random(1)), daemon=True)
        editor.start()
        while editor.is_alive():
            number += 1
            with suppress(BriefError):
                change = Change(*TOP, "height", f"{200 + number}px")
                session.save([change], session.said().brief.digest)
        texts = [one.read_text("utf-8") for one in brief.parent.glob("brief*.toml")]
        assert number > 5
        assert [line for line in lines if not any(line in text for text in texts)] == []

    @pytest.mark.skipif(sys.platform == "win32", reason="it has other kinds of links and rights")
    def test_the_brief_stays_the_file_that_it_is(self, brief: Path, tmp_path: Path) -> None:
        text = BRIEF.replace("\n", "\r\n", 3)
        brief.write_bytes(text.encode())
        other, link = tmp_path / "other.toml", tmp_path / "link.toml"
        os.link(brief, other)
        link.symlink_to(brief)
        brief.chmod(0o444)
        session = Session(link, LARGEST_SOURCE)
        session.save([HEIGHT], session.said().brief.digest)
        session.close()
        wanted = text.replace('"300px"', '"200px"').encode()
        assert brief.read_bytes() == other.read_bytes() == link.read_bytes() == wanted
        assert (link.is_symlink(), brief.stat().st_nlink) == (True, 2)
        assert brief.stat().st_mode & 0o777 == 0o444
        other.unlink()
        session = Session(link, LARGEST_SOURCE)
        session.save([Change(*TOP, "height", "260px")], session.said().brief.digest)
        session.close()
        assert (link.is_symlink(), brief.stat().st_mode & 0o777) == (True, 0o444)
        assert '"260px"' in brief.read_text()

    def test_the_way_back_ends_at_what_an_editor_wrote(self, session: Session, brief: Path) -> None:
        session.save([Change(*TOP, "subject", SUBJECT)], session.said().brief.digest)
        theirs = brief.read_text() + "# mine\n"
        brief.write_text(theirs)
        session.save([HEIGHT], session.said().brief.digest)
        assert session.back(-1)["undo"] is False
        assert brief.read_text() == theirs

    def test_a_brief_that_is_wrong_meanwhile_is_told_and_left(
        self, session: Session, brief: Path
    ) -> None:
        seen = session.said().brief.digest
        brief.write_text("[[backdrop")
        with pytest.raises(BriefError, match="not valid TOML"):
            session.save([HEIGHT], seen)
        assert brief.read_text() == "[[backdrop"

    @pytest.mark.slow
    def test_a_draft_follows_and_its_files_are_served(
        self, session: Session, server: AdjustServer, brief: Path
    ) -> None:
        stop = threading.Event()
        follows = threading.Thread(target=session.follow, args=(stop,), daemon=True)
        follows.start()
        wait(lambda: session.drafts())
        session.save([Change(*TOP, "subject", SUBJECT)], session.said().brief.digest)
        wanted = session.scene("top")["views"][0]["picture"]["cut"]
        found = wait(lambda: _with_cut(session, wanted))
        stop.set()
        follows.join(20)
        status, content = asked(server, f"/{server.key}/draft/{found['file']}")
        assert (status, len(content)) == (200, found["bytes"])
        assert not (brief.parent / "published").exists()


def _with_cut(session: Session, cut: list[float]) -> Any:
    drafts = session.drafts().get("top", {}).values()
    return next((one for one in drafts if one["cut"] == cut), None)


@pytest.mark.slow
@pytest.mark.skipif(os.name == "nt", reason="no such signal there")
def test_it_is_served_until_ctrl_c(brief: Path) -> None:
    # Who is started in the background of a shell would never hear of it.
    hears = "import signal; signal.signal(signal.SIGINT, signal.default_int_handler)"
    begins = f"{hears}; from brightcanvas.cli.main import entry; entry()"
    command = [sys.executable, "-c", begins, "adjust", str(brief), "--no-open", "--json"]
    pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.PIPE}
    with subprocess.Popen(command, text=True, **pipes) as running:  # type: ignore[call-overload]
        told = ""
        while not told.rstrip().endswith("}"):
            told += running.stdout.readline()
        with urllib.request.urlopen(json.loads(told)["address"], timeout=20) as answer:
            assert answer.status == 200
        running.send_signal(signal.SIGINT)
        try:
            _, said = running.communicate(timeout=60)
        finally:
            running.kill()
        assert running.returncode == 0
    assert "Ctrl-C ends it" in said
    assert "is as it was saved last" in said
    assert "Traceback" not in said


@pytest.mark.parametrize("name", ["no.toml", "wrong.toml"])
def test_a_brief_that_is_none_is_told(tmp_path: Path, name: str) -> None:
    (tmp_path / "wrong.toml").write_text("= 1")
    assert call("adjust", tmp_path / name, "--no-open").status == 2


@pytest.mark.slow
def test_the_proof_is_one_page_that_needs_nothing_else(brief: Path) -> None:
    ran = call("sheet", brief, "--json")
    assert ran.status == 1, "its copy can't be read"
    page = (brief.parent / "proof/proof.html").read_text("utf-8")
    assert ran.facts["bytes"] == len(page.encode())
    assert ran.facts["broken"] == page.count('"state": "broken"') > 0
    assert "data:image/jpeg;base64," in page
    assert "src=" not in page
    assert "http:" not in page.replace("http-equiv", "")
    assert "<script>alert" not in page
    (brief.parent / "proof/proof.html").write_text("my own notes")
    assert call("sheet", brief).status == 2
    assert (brief.parent / "proof/proof.html").read_text() == "my own notes"
    shutil.rmtree(brief.parent / "proof")
