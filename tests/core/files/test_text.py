"""Records as text: whatever can be made is written, read back equal, and written the same again."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from veergust.core.files.as_files import project_files, project_from_files, slug
from veergust.core.files.beneath import Beneath, reference
from veergust.core.files.folder import open_project
from veergust.core.files.text import from_text, to_text
from veergust.core.model import (
    Action,
    Condition,
    Cut,
    Drive,
    Event,
    Exit,
    Gate,
    Hitbox,
    HitboxKey,
    Hold,
    Pin,
    Project,
    Section,
    Settings,
    Shield,
    StartRule,
    Strike,
)
from veergust.core.trouble import Trouble

NAMES = st.text(min_size=1, max_size=8)


def within(low: float, high: float) -> Any:
    return st.floats(low, high, allow_nan=False).map(lambda v: round(v, 6))


NUMBERS, SIZES, RATES, SECONDS = within(-1e6, 1e6), within(0, 100), within(0.001, 1000), within(-36_000, 36_000)
FACTORS = within(-1000, 1000)
TICKS = st.integers(0, 400)
VECTORS = st.tuples(FACTORS, FACTORS, FACTORS)
PINS = st.builds(Pin, to=st.sampled_from(["pose", "frame"]), source=st.none() | SECONDS)
CONDITIONS = st.builds(
    Condition, test=st.sampled_from(["speed", "held", "contact", "chance"]), name=NAMES, op=st.sampled_from(["<", "==", ">"]),
    value=NUMBERS,
)  # fmt: skip
SPAN: dict[str, Any] = {"start": TICKS, "end": TICKS, "start_pin": PINS, "end_pin": PINS}
BOXES = st.builds(
    Hitbox, mount=NAMES, shape=st.sampled_from(["sphere", "capsule", "box"]), offset=VECTORS, to=VECTORS, radius=SIZES,
    keys=st.lists(st.builds(HitboxKey, tick=TICKS, offset=VECTORS, to=VECTORS, radius=SIZES), max_size=2).map(tuple),
)  # fmt: skip


def some(what: Any) -> Any:
    return st.lists(what, max_size=2).map(tuple)


SECTIONS = st.builds(
    Section,
    name=NAMES,
    cuts=some(st.builds(Cut, clip=NAMES, start=SECONDS, end=st.none() | SECONDS, rate=RATES, mirror=st.booleans())),
    then=NAMES,
    gates=some(st.builds(Gate, **SPAN, to=NAMES, conditions=some(CONDITIONS))),
    strikes=some(st.builds(Strike, **SPAN, name=NAMES, boxes=some(BOXES), damage=NUMBERS, knockback=VECTORS)),
    exits=some(
        st.builds(Exit, **SPAN, kind=st.sampled_from(["combo", "cancel", "break"]), to=NAMES, early=st.booleans())
    ),
    shields=some(st.builds(Shield, **SPAN, hurtboxes=some(NAMES))),
    holds=some(st.builds(Hold, **SPAN, setting=NAMES, value=NUMBERS)),
    drives=some(st.builds(Drive, **SPAN, scale=FACTORS)),
    events=some(st.builds(Event, tick=TICKS, name=NAMES, payload=NAMES)),
)
ACTIONS = st.builds(
    Action, name=NAMES, group=NAMES, tags=some(NAMES), sections=some(SECTIONS),
    start=st.builds(StartRule, commands=some(NAMES), cooldown=TICKS), speed=RATES,
)  # fmt: skip
PROJECTS = st.builds(
    Project,
    name=NAMES,
    settings=st.builds(Settings, rate=st.sampled_from([30, 60, 120]), buffer=TICKS),
    actions=st.lists(ACTIONS, max_size=4, unique_by=lambda a: a.name).map(tuple),
)


@settings(max_examples=45)
@given(project=PROJECTS)
def test_any_project_comes_back_equal_and_as_the_same_bytes(project: Project) -> None:
    files = project_files(project)
    again = project_from_files(files, "p.veergust")
    assert again == project
    assert project_files(again) == files
    assert project_files(msgspec.structs.replace(project)) == files


@settings(max_examples=40)
@given(project=PROJECTS)
def test_text_has_no_line_too_wide_to_read_but_for_long_words(project: Project) -> None:
    for data in project_files(project).values():
        text = data.decode()
        assert text.endswith("\n")
        for line in text.splitlines():
            # A line is wide only where it could not be broken: one key and one plain value.
            assert len(line) <= 130 or line.count('": ') <= 1, line


@pytest.mark.parametrize("name", ["project.json", "ground.json", "actions/thrust.json"])
@pytest.mark.parametrize("way", ["object", "list"])
def test_merge_marks_are_called_by_their_name(name: str, way: str, folder: Path) -> None:
    text = (folder / name).read_text().splitlines()
    at = next(i for i, line in enumerate(text) if line.endswith(("{", "[") if way == "object" else "["))
    text[at + 1 : at + 1] = ["<<<<<<< HEAD", '  "a": 1,', "=======", '  "a": 2,', ">>>>>>> theirs"]
    (folder / name).write_text("\n".join(text))
    with pytest.raises(Trouble, match=rf"{name}, line {at + 2}: holds merge marks that nobody has settled"):
        open_project(folder)


def test_equal_numbers_are_equal_bytes() -> None:
    whole, point = Drive(start=0, end=4, scale=2), Drive(start=0, end=4, scale=2.0)
    assert to_text(whole) == to_text(point) == b'{"start": 0, "end": 4, "scale": 2}\n'
    assert to_text(Drive(start=0, end=4, scale=1.0)) == b'{"start": 0, "end": 4}\n'


@pytest.mark.parametrize(
    ("data", "field", "words"),
    [
        (b'{"start": 1}', "top level", "lacks its field end"),
        (b'{"start": "a", "end": 4}', "start", "should be a whole number and is text"),
        (b'{"start": 1, "end": 4, "kind": "fly"}', "kind", "fly"),
        (b'{"start": 1, "end": 4, "Scale": 1}', "top level", "Scale"),
        (b"[1, 2]", "top level", "an object and is a list"),
        (b"{", "", "not valid JSON"),
        (b"\xff\xfe", "", "not valid JSON"),
        (b"", "", "not valid JSON"),
    ],
)
def test_what_is_wrong_is_said_with_its_field(data: bytes, field: str, words: str) -> None:
    with pytest.raises(Trouble) as caught:
        from_text(data, Drive, "d.json")
    assert caught.value.file == "d.json"
    assert caught.value.field == field
    assert words in caught.value.says
    assert caught.value.do


@given(st.text(max_size=30))
def test_a_slug_is_a_plain_file_name(name: str) -> None:
    made = slug(name)
    assert made
    assert set(made) <= set("abcdefghijklmnopqrstuvwxyz0123456789_")
    assert slug(made) == made


@pytest.mark.parametrize(
    "text",
    [
        "/etc/passwd",
        "..",
        "../x",
        "a/../../x",
        "a\\..\\..\\x",
        "C:/x",
        "c:\\x",
        "file:///x",
        "http://x/y",
        "",
        "a\0b",
        "a\x1b[31mb",
        "a" * 5000,
    ],
)
def test_nothing_leads_out_of_the_folder(text: str) -> None:
    with pytest.raises(Trouble) as caught:
        reference(text, file="f", field="g")
    assert (caught.value.file, caught.value.field) == ("f", "g")


@pytest.mark.parametrize("text", ["a.glb", "clips/a b.glb", "clips/ü.glb", "./a.glb", "a..b/c"])
def test_what_lies_in_the_folder_is_found(text: str, tmp_path: Any) -> None:
    name = reference(text, file="f", field="g")
    (tmp_path / name).parent.mkdir(exist_ok=True)
    (tmp_path / name).write_text("here")
    with Beneath(tmp_path) as place:
        assert place.read(name) == b"here"


def test_links_are_followed_inside_and_never_out(tmp_path: Any) -> None:
    inner, outer = tmp_path / "in", tmp_path / "out"
    for folder in (inner / "a", inner / "b", outer):
        folder.mkdir(parents=True)
    (inner / "b" / "x").write_text("inner")
    (outer / "x").write_text("outer")
    links = {"a/rel": "../b/x", "a/abs": str(inner / "b" / "x"), "a/round": "../a/rel"}
    out = {
        "a/far": str(outer / "x"),
        "a/up": "../../out/x",
        "a/dir": str(outer),
        "a/sly": "../b/../../out/x",
        "a/own": "own",
    }
    for name, target in {**links, **out}.items():
        (inner / name).symlink_to(target)
    with Beneath(inner) as place:
        assert {place.read(name) for name in links} == {b"inner"}
        for name in [*(n for n in out if n != "a/dir"), "a/dir/x"]:
            with pytest.raises(Trouble, match="outside"):
                place.read(name)
        place.write("new/deep/file", b"1")
        with pytest.raises(Trouble, match="a/dir: is a link"):
            place.write("a/dir/y", b"1")
        place.clear("a")
    assert sorted(p.name for p in outer.iterdir()) == ["x"]
    assert (inner / "b" / "x").read_text() == "inner"
