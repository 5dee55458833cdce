"""Edits in a running game: when and how they are taken, what comes back, what is refused, lost and found."""

from __future__ import annotations

import asyncio
import base64
import json
import os
import random
import socket
import stat
import sys
from collections.abc import Callable
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace
from tools.made import DEMO
from tools.made.edits import with_action, with_section
from tools.referee.comparing import Handed, handed_over
from websockets.sync.client import connect

from tests.conftest import OSSA, TARN
from tests.live.playing import game, until
from veergust.cli.main import cli
from veergust.core.edit.spans import SpanRef, set_edges
from veergust.core.export.writing import export
from veergust.core.files.saving import save_project
from veergust.core.live.handed import Handing, part_of, update_of
from veergust.core.live.key import key_in
from veergust.core.live.line import LiveLine
from veergust.core.model import Capsule, Cut, Exit, Look, Project, Section
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.trouble import Trouble

sys.path.insert(0, str(DEMO.parents[1] / "examples"))
from game.running import Running, files_in
from game.wire import PROTOCOL, Wire

Json = dict[str, Any]
MANY_EDITS = int(os.environ.get("VEERGUST_EDITS", "20"))
"""So many edits are played with, and the game is killed ``VEERGUST_KILLS`` times, unless it is said otherwise."""
STRIKE = SpanRef("Low sweep", 1, "strikes", 0)


@pytest.fixture
def running(out: Path) -> Running:
    return Running(files_in(out))


def moved(build: CompiledProject, start: int, end: int) -> CompiledProject:
    """The sweep's strike open on other frames."""
    made = build.action("Low sweep")
    assert made is not None
    return build.renew(set_edges(build.project, made, STRIKE, start, end).project)


def otherwise(build: CompiledProject, there: dict[str, str]) -> Json:
    handing = Handing()
    files = handing.files(build)
    return update_of(files, handing.marks(files), there, {})


def put(running: Running, build: CompiledProject, when: str = "free", version: str = "next") -> None:
    """An edit read in a game."""
    changes = otherwise(build, running.digests())
    running.waiting = running.prepared({p: _bytes(d) for p, d in changes.items()}, version, when)


def _bytes(data: Any) -> bytes | None:
    if data is None:
        return None
    return data["text"].encode() if "text" in data else base64.b64decode(data["base64"])


# What is taken, and when


def test_with_edits_at_the_same_ticks_it_plays_what_we_play(build: CompiledProject, running: Running) -> None:
    """Strikes moved, damage, a new exit, an action renamed away and back, a figure's speed, while two fight: at once, by
    pose."""
    ours = Simulation(build, 1)
    draw = random.Random(3)
    now, edits, played, hurt = build, 0, set(), 0
    ticks = 20 * MANY_EDITS + 20
    for tick in range(ticks):
        if tick and tick % 20 == 0:
            now, edits = edited(now, draw, edits), edits + 1
            put(running, now, "pose", f"v{edits}")
            ours.use(now)
        row: Json = {"tick": tick, "fighter": OSSA, "command": draw.choice(("light", "thrust"))}
        given: list[Json] = [row] if tick % 13 == 5 else []
        given += [{"tick": tick, "fighter": TARN, "axis": "move", "value": [-0.5, 0.1]}] if tick % 50 == 7 else []
        running.given = list(given)
        line, _ = running.tick()
        assert line is not None
        record = ours.tick(inputs_of(given))
        for mine, theirs in zip(record.fighters, line["fighters"], strict=True):
            playing = [(v.compiled.action.name, v.part.section.name, v.frame) for v in mine.live()]
            played |= {name for name, _, _ in playing}
            assert playing == [(a["action"], a["section"], a["frame"]) for a in theirs["actions"]], tick
            assert mine.locomotion[-1].state == theirs["ground"], tick
            assert mine.position.tolist() == pytest.approx(theirs["position"], abs=2e-6), tick
            assert mine.health == pytest.approx(theirs["health"]), tick
        hurt += len(record.contacts)
        assert [(c.attacker, c.victim, c.damage) for c in record.contacts] == [
            (c["attacker"], c["victim"], c["damage"]) for c in line["contacts"]
        ], tick
    assert edits == MANY_EDITS
    assert played >= {"Low sweep", "Thrust"}
    assert hurt


def inputs_of(rows: list[Json]) -> list[Input]:
    out = []
    for row in rows:
        x, z = row.get("value", (0.0, 0.0))
        out.append(Input(row["fighter"], row.get("command", ""), axis=row.get("axis", ""), value=(x, z)))
    return out


def edited(build: CompiledProject, draw: random.Random, count: int) -> CompiledProject:
    project = build.project
    kind = count % 5
    if kind == 0:
        start = draw.randint(0, 6)
        return moved(build, start, start + draw.randint(2, 5))
    if kind == 4:
        speed = replace(project.locomotion, run_speed=draw.choice((3.0, 4.2, 5.0)))
        return build.renew(replace(project, locomotion=speed))
    action = project.actions[0]
    section = action.sections[1]
    if kind == 1:
        strike = replace(section.strikes[0], damage=float(draw.randint(1, 9)))
        section = replace(section, strikes=(strike,))
    elif kind == 2:
        exit_ = Exit(start=2, end=9, command="thrust", to="Thrust", priority=draw.randint(0, 3))
        section = replace(section, exits=(exit_,))
    else:
        cut = replace(section.cuts[0], rate=draw.choice((1.0, 1.25, 1.6)))
        section = replace(section, cuts=(cut,))
    sections = (action.sections[0], section, *action.sections[2:])
    actions = (replace(action, sections=sections), *project.actions[1:])
    return build.renew(replace(project, actions=actions))


def test_an_edit_waits_until_nobody_plays_what_it_changes(build: CompiledProject, running: Running) -> None:
    running.given = [{"tick": 0, "fighter": OSSA, "command": "light"}]
    running.tick()
    put(running, moved(build, 3, 6))
    assert running.waiting is not None
    assert running.waiting.changed == {"Low sweep"}
    busy = 0
    while running.bout.fighters[0].playing:
        assert running.version == "as it was loaded"
        assert running.tick()[1] == ""
        busy += 1
    assert busy > 20
    assert running.tick()[1] == "next"
    assert running.version == "next"
    # What it does not change does not wait for it; by pose nothing waits.
    running.given = [{"tick": running.bout.now, "fighter": OSSA, "command": "thrust"}]
    running.tick()
    put(running, moved(build, 2, 5), version="sweep again")
    assert running.tick()[1] == "sweep again"
    running.given = [{"tick": running.bout.now, "fighter": TARN, "command": "light"}]
    running.tick()
    put(running, moved(build, 1, 4), "pose", "now")
    frame = running.bout.fighters[1].playing[0].frame
    assert running.tick()[1] == "now"
    assert running.bout.fighters[1].playing[0].frame == frame + 1


def test_a_second_edit_is_laid_over_one_that_waits(build: CompiledProject, running: Running) -> None:
    running.given = [{"tick": 0, "fighter": OSSA, "command": "light"}]
    running.tick()
    put(running, moved(build, 3, 6), version="one")
    other = replace(build.project, locomotion=replace(build.project.locomotion, run_speed=3.0))
    put(running, moved(build.renew(other), 3, 6), version="two")
    taken = [running.tick()[1] for _ in range(120)]
    assert [t for t in taken if t] == ["two"]
    assert running.export.ground["run_speed"] == 3.0
    strike = running.export.actions["Low sweep"].sections[1].strikes[0]
    assert (strike.row["start"], strike.row["end"]) == (3, 6)


def test_only_what_is_otherwise_is_sent(build: CompiledProject, out: Path) -> None:
    handing = Handing()
    files = handing.files(build)
    again = handing.files(build)
    assert files == again
    there = Running(files_in(out)).digests()
    assert handing.marks(files) == {path: sha256(data).hexdigest() for path, data in files.items()}
    assert set(otherwise(build, there)) <= {"manifest.json"}
    changed = otherwise(moved(build, 3, 6), there)
    assert set(changed) == {"manifest.json", "actions.json"}
    fewer = build.renew(replace(build.project, actions=build.project.actions[:3]))
    gone = otherwise(fewer, there)
    assert [p for p, d in gone.items() if d is None] == ["actions/reel_back.glb"]


def alike(one: str, two: str) -> int:
    """So many characters two texts begin alike with."""
    return next((n for n, (a, b) in enumerate(zip(one, two)) if a != b), min(len(one), len(two)))


@given(*[st.lists(st.sampled_from(["a", "b", "é", "ê", "ĩ", "语", "🗡"])).map("".join)] * 2)
@example("aé", "aê")  # which begin with the same byte
@example("éa", "ĩa")  # which end with the same byte
def test_a_part_of_a_text_in_its_place_is_the_text(before: str, now: str) -> None:
    """Any two texts; and a part is no longer than what the two do not begin and end alike with, to a character."""
    old, new = before.encode(), now.encode()
    part = part_of(old, new)
    assert old[: part["from"]] + part["text"].encode() + old[part["to"] :] == new
    same = alike(before, now)
    kept = alike(before[same:][::-1], now[same:][::-1])
    assert part["text"] == now[same : len(now) - kept]


def test_a_document_that_the_game_has_is_sent_in_part_and_it_has_the_same_bytes(
    build: CompiledProject, out: Path, key: Path
) -> None:
    sent: list[Json] = []

    class Heard(LiveLine):
        def _request(self, there: Any, method: str, params: Json) -> int:
            sent.append({"method": method, **params})
            return super()._request(there, method, params)

    steps = [moved(build, start, 7) for start in (2, 3, 4, 5)]
    with game(out, key) as port:
        line = Heard(port, key_in(key), "pose")
        line.begin()
        try:
            for step in steps:
                line.send(step)
                until(lambda s=step: line.standing.even and line._sent is s)  # type: ignore[misc]
        finally:
            line.end()
        files = [m["files"]["actions.json"] for m in sent if m["method"] == "update"]
        assert "from" not in files[0]
        assert all(0 < f["from"] < f["to"] and len(f["text"]) < 0.2 * len(files[0]["text"]) for f in files[1:])
        assert len(files) == len(steps)
        again = LiveLine(port, key_in(key))
        again.begin()
        try:
            until(lambda: again.standing.state == "connected")
        finally:
            again.end()
    handing = Handing()
    assert again._there == {p: m for p, m in handing.marks(handing.files(steps[-1])).items() if p in again._there}


def test_parts_are_sent_to_a_game_that_takes_them_of_what_it_is_known_to_have(
    build: CompiledProject, out: Path
) -> None:
    """One that does not say that it does is sent all of a document, and so is one that was found anew."""
    line = LiveLine(1, "key")
    asked: list[Json] = []
    line._request = lambda there, method, params: asked.append(params) or 1  # type: ignore[method-assign,func-returns-value]
    files = Running(files_in(out)).digests()
    for parts, in_part in (({}, False), ({"parts": 1}, False), ({"parts": True}, True), ({"parts": True}, True)):
        line._answer = lambda *_, said=parts: {"result": {**said, "files": files}}  # type: ignore[method-assign]
        assert line._greeted(None)  # type: ignore[arg-type]
        for n, start in enumerate((2, 3)):
            line._update(None, moved(build, start, 7), 0.0)  # type: ignore[arg-type]
            assert ("from" in asked[-1]["files"]["actions.json"]) == (in_part and n == 1)


@pytest.mark.parametrize(
    "odd",
    [{"from": -1}, {"from": 5, "to": 3}, {"to": 10**9}, {"from": 0.5}, {"from": True}, {"from": "0"}, {"to": None}],
)
def test_a_part_that_lies_nowhere_is_refused(running: Running, key: Path, odd: Json) -> None:
    wire = Wire(running, key_in(key))
    params = {"project": running.project, "version": "v", "files": {"actions.json": {"text": "x", **odd}}}
    answer = asyncio.run(wire._answer(request("update", params)))
    assert answer is not None
    assert answer["error"]["code"] == -32602
    assert "actions.json" in answer["error"]["message"]
    assert running.waiting is None


# Over the line


def test_edits_are_taken_ticks_come_back_and_things_can_be_asked_for(
    build: CompiledProject, out: Path, key: Path
) -> None:
    with game(out, key) as port:
        line = LiveLine(port, key_in(key))
        line.send(build)
        line.begin()
        try:
            until(lambda: line.standing.even)
            assert line.standing.game["project"] == build.project.name
            line.ask("start", fighter=OSSA, action="Low sweep")
            seen: list[Json] = []

            def touched() -> bool:
                seen.extend(line.take())
                return any(row["contacts"] for row in seen)

            until(touched)
            asked = next(row for row in seen if row["inputs"])
            assert asked["inputs"] == [{"tick": asked["tick"], "fighter": OSSA, "action": "Low sweep"}]
            assert asked["fighters"][0]["actions"][0]["action"] == "Low sweep"
            assert [row["tick"] for row in seen] == list(range(seen[0]["tick"], seen[-1]["tick"] + 1))
            line.send(moved(build, 4, 7))
            until(lambda: line.standing.even and line.standing.took is not None)
            line.ask("stop")
            until(lambda: line.standing.game.get("stopped", line.standing.game.get("tick")) is not None)
            line.ask("nonsense")
            until(lambda: "no method" in line.standing.refused)
        finally:
            line.end()
        assert line.standing.state == "off"


def test_a_project_with_an_error_is_not_sent_and_another_is_refused(
    build: CompiledProject, out: Path, key: Path
) -> None:
    with game(out, key) as port:
        line = LiveLine(port, key_in(key))
        bad = replace(build.project, actions=(replace(build.project.actions[0], layer="Nowhere"),))
        line.send(build.renew(bad))
        line.begin()
        try:
            until(lambda: bool(line.standing.refused))
            assert line.standing.refused.startswith("not sent: ")
            line.send(build.renew(replace(build.project, name="Another quay")))
            until(lambda: "runs here" in line.standing.refused)
            line.send(moved(build, 3, 6))
            until(lambda: line.standing.even)
            assert line.standing.refused == ""
        finally:
            line.end()


def test_killed_and_started_again_it_is_found_again_and_has_what_was_sent(
    build: CompiledProject, out: Path, key: Path
) -> None:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    line = LiveLine(port, key_in(key))
    line.send(moved(build, 2, 6))
    line.begin()
    try:
        for _ in range(int(os.environ.get("VEERGUST_KILLS", "3"))):
            with game(out, key, port=port):
                until(lambda: line.standing.even)
                assert line.standing.state == "connected"
            until(lambda: line.standing.state == "looking")
    finally:
        line.end()


def test_another_key_another_protocol_and_a_second_editor_are_told_why(
    build: CompiledProject, out: Path, key: Path, tmp_path: Path
) -> None:
    with game(out, key) as port:
        other = LiveLine(port, key_in(tmp_path / "other.key"))
        other.begin()
        until(lambda: other.standing.state == "refused")
        assert "not the key" in other.standing.says
        other.end()
        hello = {"protocol": 9, "key": key_in(key)}
        assert said(port, [request("hello", hello)])[0]["error"]["code"] == -32002
        first = LiveLine(port, key_in(key))
        first.begin()
        until(lambda: first.standing.state == "connected")
        second = LiveLine(port, key_in(key))
        second.begin()
        until(lambda: second.standing.state == "refused")
        assert "another editor" in second.standing.says
        second.end()
        first.end()
        third = LiveLine(port, key_in(key))
        third.begin()
        until(lambda: third.standing.state == "connected")
        third.end()


def request(method: str, params: Any = None, mark: int = 1) -> str:
    return json.dumps({"jsonrpc": "2.0", "id": mark, "method": method, "params": params or {}})


def said(port: int, messages: list[str]) -> list[Json]:
    """What is answered to messages, one after the other."""
    with connect(f"ws://127.0.0.1:{port}", compression=None, proxy=None) as there:
        out = []
        for message in messages:
            there.send(message)
            out.append(json.loads(there.recv(timeout=20)))
        return out


def test_the_key_is_the_persons_own_and_no_others(tmp_path: Path) -> None:
    path = tmp_path / "deep" / "live.key"
    made = key_in(path)
    assert key_in(path) == made
    assert stat.S_IMODE(path.stat().st_mode) == 0o600
    os.chmod(path, 0o644)
    with pytest.raises(Trouble, match="can be read by others"):
        key_in(path)
    from game.key import key_in as game_key

    with pytest.raises(PermissionError):
        game_key(path)


def test_one_that_never_reads_is_left_behind_and_told(running: Running) -> None:
    """The game does not wait: it leaves the oldest out, and says how many."""

    class Silent:
        async def send(self, message: str) -> None:
            await asyncio.Event().wait()

    async def go() -> tuple[int, Json]:
        from game.wire import BEHIND, Editor

        editor = Editor(Silent())  # type: ignore[arg-type]
        for n in range(BEHIND + 40):
            editor.tell("ticks", lines=[{"tick": n}])
        missed = editor.left_out
        held = [json.loads(editor.queue.get_nowait()) for _ in range(editor.queue.qsize())]
        told = sum(m["params"].get("left_out", 0) for m in held)
        assert held[-1]["params"]["lines"] == [{"tick": BEHIND + 39}]
        return missed + told, held[0]

    missed, first = asyncio.run(go())
    assert missed == 40
    assert first["params"]["lines"] == [{"tick": 40}]


# Whatever is said


ODD = ("", "{", "[]", "null", "7", '{"jsonrpc":"2.0"}', '{"jsonrpc":"1.0","method":"status"}', "\ud83d" * 0 + "\x00",
       '{"jsonrpc":"2.0","id":{},"method":"status"}', '{"jsonrpc":"2.0","id":1,"method":5}', "[" * 5000,
       '{"jsonrpc":"2.0","id":1,"method":"update","params":[1]}')  # fmt: skip


def noise(draw: random.Random) -> Any:
    """Some value of JSON."""
    kind = draw.randrange(9)
    if kind < 6:
        return draw.choice([None, True, -1, 0, 3, 1e300, 2**80, "", "Low sweep", OSSA, "light", "x" * 300, "../a", 0.5])
    if kind == 6:
        return [noise(draw) for _ in range(draw.randrange(3))]
    return {
        draw.choice(["text", "base64", "files", "a", "fighter", "value", "from", "to"]): noise(draw) for _ in range(2)
    }


NAMES = ("project", "version", "files", "when", "ticks", "fighter", "action", "from", "command", "press", "value", "on")


def scrambled(draw: random.Random, methods: list[str]) -> str:
    """A request that may be anything."""
    if draw.random() < 0.2:
        return draw.choice(ODD)
    params = {draw.choice(NAMES): noise(draw) for _ in range(draw.randrange(5))}
    if draw.random() < 0.3:
        params |= {"project": "Lantern Quay", "version": "v", "when": draw.choice(["free", "pose"])}
        path = draw.choice(["actions.json", "manifest.json", "figure.json", "ground.json", "x"])
        params["files"] = {
            path: draw.choice(
                [
                    {"text": draw.choice(["{}", "[]", "{", '{"actions":[{}]}'])},
                    None,
                    5,
                    {"text": "]", "from": draw.randrange(-9, 9), "to": noise(draw)},
                ]
            )
        }
    made: Any = {"jsonrpc": "2.0", "id": draw.choice([1, "a", None]), "method": draw.choice(methods), "params": params}
    return json.dumps(made)


def test_whatever_a_game_is_told_it_answers_or_refuses_and_goes_on(running: Running, key: Path) -> None:
    """Ten thousand messages (``VEERGUST_MESSAGES``; some of them here): every one with an id is answered, no edit that
    cannot be played is taken, and it plays on as if nothing had been said."""
    wire = Wire(running, key_in(key))
    wire.editor = type("Nobody", (), {"follows": False, "tell": lambda *_, **__: None})()
    methods = [*wire.methods, "update", "hello", "what"]
    draw = random.Random(11)
    before = dict(running.files)

    async def go() -> int:
        answered, lines = 0, 0
        for n in range(int(os.environ.get("VEERGUST_MESSAGES", "1500"))):
            message = scrambled(draw, methods)
            answer = await wire._answer(message)
            asks = False
            with suppress(ValueError, RecursionError):
                made = json.loads(message)
                asks = isinstance(made, dict) and "id" in made
            assert answer is not None or not asks, message
            if answer is not None:
                answered += 1
                assert ("result" in answer) != ("error" in answer)
                json.dumps(answer)
            if n % 25 == 0:
                running.stopped = False
                lines += running.tick()[0] is not None
        assert lines > 50
        return answered

    assert asyncio.run(go()) > 500
    running.waiting = None
    assert running.files == before


def test_whatever_an_editor_is_told_it_goes_on_and_changes_nothing(build: CompiledProject) -> None:
    line = LiveLine(1, "key")
    draw = random.Random(5)
    project = build.project
    told = 0
    for _ in range(3000):
        message = noise(draw)
        if draw.random() < 0.7:
            message = {"jsonrpc": "2.0", "method": draw.choice(["ticks", "applied", "hello", 4]),
                       "params": draw.choice([noise(draw), {"lines": noise(draw), "left_out": noise(draw)}])}  # fmt: skip
        line._hear(message)
        told += len(line.take())
        assert isinstance(line.standing.left_out, int)
    assert build.project is project


def test_a_game_that_talks_nonsense_is_no_game(key: Path) -> None:
    """Someone else listens there: words, no end, no wait of over a second."""
    from websockets.sync.server import serve

    def nonsense(there: Any) -> None:
        there.recv()
        there.send(draw.choice(["{", "[]", '{"id": 1, "result": 5}', '{"id": 1, "error": {}}', "x" * 100]))

    draw = random.Random(2)
    with serve(nonsense, "127.0.0.1", 0, compression=None) as server:
        from threading import Thread

        Thread(target=server.serve_forever, daemon=True).start()
        line = LiveLine(server.socket.getsockname()[1], "key")
        line.begin()
        until(lambda: "nothing that a game would" in line.standing.says or "has gone" in line.standing.says)
        line.end(1.0)
        server.shutdown()


def test_messages_that_are_too_long_or_cut_short_close_the_line_and_nothing_else(out: Path, key: Path) -> None:
    from websockets.exceptions import ConnectionClosed

    with game(out, key) as port:
        hello = request("hello", {"protocol": PROTOCOL, "key": key_in(key)})
        with connect(f"ws://127.0.0.1:{port}", compression=None, proxy=None) as there:
            there.send(hello)
            assert "result" in json.loads(there.recv(timeout=20))
            with suppress(ConnectionClosed):
                there.send(" " * (65 << 20))
            with pytest.raises(ConnectionClosed):
                there.recv(timeout=20)
        # Half a frame, and then nothing.
        with connect(f"ws://127.0.0.1:{port}", compression=None, proxy=None) as there:
            there.socket.sendall(b"\x81\xfe\x10\x00\x00\x00\x00\x00{")
            there.socket.close()
        until(lambda: "result" in said(port, [hello])[0])


# By the command


def test_the_command_sends_what_is_saved(build: CompiledProject, folder: Path, tmp_path: Path) -> None:
    save_project(build.project, folder)
    key = tmp_path / "live.key"
    export(build, tmp_path / "out", mesh=False)
    words = ["live", str(folder), "--key", str(key), "--once"]
    with game(tmp_path / "out", key) as port:
        done = CliRunner().invoke(cli, [*words, "--port", str(port), "--json"])
        assert done.exit_code == 0, done.output
        save_project(moved(build, 3, 7).project, folder)
        done = CliRunner().invoke(cli, [*words, "--port", str(port)])
        assert done.exit_code == 0, done.output
        assert "taken: Lantern Quay" in done.output
    done = CliRunner().invoke(cli, [*words, "--port", str(port), "--seconds", "0.3"])
    assert isinstance(done.exception, Trouble)
    assert "has not taken it" in str(done.exception)


def test_an_export_goes_on_as_it_was_read(quay: Project, assets: Assets) -> None:
    """What the player reads anew of a changed export is the same as read whole."""
    handed: Handed = handed_over(replace(quay, drills=(), takes=()), assets)
    build, whole = handed
    files = Handing().files(build)
    from player.export import Export

    again = Export(files, whole)
    assert list(again.actions) == list(whole.actions)
    for name, action in again.actions.items():
        for a, b in zip(action.sections, whole.actions[name].sections, strict=True):
            assert a.row == b.row
            assert a.pose(3).places == b.pose(3).places


def sections(project: Project, name: str) -> tuple[Section, ...]:
    return next(a.sections for a in project.actions if a.name == name)


EDITS: tuple[tuple[str, Callable[[Project], Project]], ...] = (
    ("a strike moved", lambda p: with_section(p, "Low sweep", 1, events=(), holds=())),
    ("a cut retimed", lambda p: with_section(p, "Low sweep", 0, cuts=(Cut(clip="staff_sweep", end=0.5, rate=0.7),))),
    (
        "a section renamed",
        lambda p: with_action(
            p, "Thrust", sections=(*sections(p, "Thrust")[:2], replace(sections(p, "Thrust")[2], name="Rest"))
        ),
    ),
    (
        "a section more",
        lambda p: with_action(p, "Reel back", sections=(*sections(p, "Reel back"), Section(name="End"))),
    ),
    ("a section less", lambda p: with_action(p, "Thrust", sections=sections(p, "Thrust")[:2])),
    ("a mask", lambda p: replace(p, masks=(replace(p.masks[0], feather=3), *p.masks[1:]))),
    ("a layer", lambda p: replace(p, layers=(*p.layers[:-1], replace(p.layers[-1], covered="ends")))),
    ("a grip", lambda p: replace(p, grips=())),
    ("a state", lambda p: replace(p, locomotion=replace(p.locomotion, braking=7.0, look=Look()))),
    ("a clip of a state", lambda p: replace(p, clips=tuple(replace(c, mirror=c.name == "walk") for c in p.clips))),
    ("another name", lambda p: replace(p, name="Quay by night")),
    ("the figure's body", lambda p: replace(p, rig=replace(p.rig, capsule=Capsule(radius=0.4, height=1.5)))),
    ("fewer frames a second", lambda p: replace(p, settings=replace(p.settings, rate=50))),
)


def test_whatever_is_edited_the_files_are_those_made_anew(build: CompiledProject, quay: Project) -> None:
    """One after the other, there and back: what is kept of the state before is never what the new one would not have."""
    build = build.renew(replace(build.project, layers=quay.layers, masks=quay.masks, grips=quay.grips))
    handing, first = Handing(), Handing().files(build)
    assert handing.files(build) == first
    for what, edit in EDITS:
        made = build.renew(edit(build.project))
        anew = Handing().files(CompiledProject(made.project, build.assets))
        assert anew != first, what
        assert handing.files(made) == anew, what
        assert handing.files(build) == first, what
