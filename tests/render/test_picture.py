"""The renderer without a window: figures, ghosts, strikes and floors leave their ink where they stand."""

from __future__ import annotations

import zlib
from collections.abc import Iterator

import numpy as np
import pytest
from numpy.typing import NDArray

from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.scene.camera import Camera
from veergust.core.scene.mannequin import mannequin
from veergust.core.scene.things import Scene, Tube
from veergust.core.scene.view import Shown, action_scene
from veergust.look import DAY, NIGHT, THEMES, WASH, Palette, rgb
from veergust.render.painter import Painter
from veergust.render.picture import headless_painter, picture, png

SIZE = (320, 240)
BARE = Shown(skins=False)
CAMERA = Camera(target=(0.4, 0.85, 0.0), yaw=0.0, pitch=6.0, distance=4.6)


@pytest.fixture(scope="module")
def painter() -> Iterator[Painter]:
    with headless_painter() as made:
        yield made


def near(pixels: NDArray[np.uint8], colour: str, off: int = 26) -> NDArray[np.bool_]:
    wanted = np.array(rgb(colour)) * 255
    return np.asarray(np.abs(pixels.astype(float) - wanted).sum(axis=-1) < off)


def frame(
    painter: Painter, build: CompiledProject, at: int, look: Palette = DAY, shown: Shown = BARE
) -> NDArray[np.uint8]:
    compiled = build.action("Low sweep")
    assert compiled is not None
    return picture(painter, action_scene(build, compiled, at, shown), CAMERA, look, build.assets.mesh, SIZE)


@pytest.mark.parametrize("look", [DAY, NIGHT])
def test_a_figure_is_drawn_in_its_own_ink_on_paper(painter: Painter, build: CompiledProject, look: Palette) -> None:
    pixels = frame(painter, build, 0, look)
    assert near(pixels, look.sky)[:20].mean() > 0.95
    body = near(pixels, look.body, 60)
    assert 800 < body.sum() < 12000
    columns = np.flatnonzero(body.any(axis=0))
    x, _, _ = CAMERA.on_picture(np.array([0.0, 1.0, 0.0]), *SIZE)
    assert columns.min() < x < columns.max()


def test_the_same_scene_gives_the_same_pixels(painter: Painter, build: CompiledProject) -> None:
    assert np.array_equal(frame(painter, build, 11), frame(painter, build, 11))


def test_an_open_strike_leaves_its_ink_and_a_closed_one_none(painter: Painter, build: CompiledProject) -> None:
    ink = DAY.role("strike").ink
    off = Shown(skins=False, sweep=False)
    assert near(frame(painter, build, 11, shown=off), ink, 60).sum() > 60
    assert near(frame(painter, build, 25, shown=off), ink, 60).sum() == 0


def test_ghosts_lie_behind_the_figure_and_never_over_it(painter: Painter, build: CompiledProject) -> None:
    plain, ghosted = (
        frame(painter, build, 11, shown=Shown(skins=s, sweep=False, hitboxes=False)) for s in (False, True)
    )
    body = near(plain, DAY.body, 30)
    assert np.array_equal(plain[body], ghosted[body])
    assert (plain != ghosted).any(axis=-1).sum() > 500


def test_a_see_through_ghost_is_one_even_wash(painter: Painter, build: CompiledProject) -> None:
    """Limbs that overlap within a ghost do not darken each other: few tones, not one for each layer."""
    compiled = build.action("Low sweep")
    assert compiled is not None
    scene = action_scene(build, compiled, 0, Shown(skins=True, sweep=False, path=False))
    only = Scene(ghosts=scene.ghosts[:1], floors=())
    pixels = picture(painter, only, CAMERA, DAY, build.assets.mesh, SIZE)
    inked = ~near(pixels, DAY.sky, 12)
    tones, counts = np.unique(pixels[inked].reshape(-1, 3), axis=0, return_counts=True)
    assert len(tones) > 0
    assert counts.max() / counts.sum() > 0.7


def test_volumes_stand_where_the_camera_puts_them(painter: Painter) -> None:
    a, b = np.array([-0.5, 1.0, 0.0]), np.array([0.9, 1.3, 0.0])
    pixels = picture(painter, Scene(tubes=(Tube(a, b, 0.12, "strike", True),), floors=()), CAMERA, DAY, None, SIZE)
    drawn = ~near(pixels, DAY.sky, 12)
    for end in (a, b):
        x, y, scale = CAMERA.on_picture(end, *SIZE)
        assert drawn[round(y), round(x)]
        assert not drawn[max(round(y - scale * 0.2), 0), round(x)]
    rows = np.flatnonzero(drawn.any(axis=1))
    high = CAMERA.on_picture(b + np.array([0, 0.12, 0]), *SIZE)[1]
    assert rows.min() == pytest.approx(high, abs=3)


def test_a_figure_without_a_mesh_is_drawn_as_a_mannequin(painter: Painter, build: CompiledProject) -> None:
    compiled = build.action("Low sweep")
    assert compiled is not None
    scene = action_scene(build, compiled, 0, Shown(skins=False))
    pixels = picture(painter, scene, CAMERA, DAY, mannequin(build.assets.skeleton), SIZE)
    assert near(pixels, DAY.body, 60).sum() > 400


def test_a_png_holds_the_pixels(assets: Assets) -> None:
    pixels = np.random.default_rng(1).integers(0, 255, (7, 5, 3), dtype=np.uint8)
    data = png(pixels)
    at = data.index(b"IDAT")
    length = int.from_bytes(data[at - 4 : at], "big")
    raw = zlib.decompress(data[at + 4 : at + 4 + length])
    rows = np.frombuffer(raw, np.uint8).reshape(7, 16)
    assert np.array_equal(rows[:, 1:].reshape(7, 5, 3), pixels)


def luminance(colour: str) -> float:
    parts = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in rgb(colour)]
    return 0.2126 * parts[0] + 0.7152 * parts[1] + 0.0722 * parts[2]


def contrast(a: str, b: str) -> float:
    high, low = sorted((luminance(a), luminance(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("name", list(THEMES))
def test_words_are_readable_on_all_they_stand_on_in_both_themes(name: str) -> None:
    """4.5 for words, also those of a role on its own wash, and 3 for marks (WCAG 2.2, 1.4.3 and 1.4.11)."""
    look = THEMES[name]
    papers = (look.paper, look.paper_side, look.paper_bright, look.selected)
    for paper in (*papers, look.hair, look.sky, look.floor_near, look.floor_far):
        for words in (look.ink, look.ink_soft, look.ink_faint, look.accent, look.warn):
            assert contrast(words, paper) >= 4.5, (words, paper)
        assert contrast(look.hair_strong, paper) >= 3.0, paper
    for role in look.roles.values():
        for paper in papers:
            assert contrast(role.ink, washed(paper, role.ink)) >= 4.5, (role.word, paper)
            assert contrast(role.ink, paper) >= 4.5, (role.word, paper)


def washed(paper: str, ink: str) -> str:
    """A paper under the wash of an ink."""
    mixed = (p * (1.0 - WASH) + i * WASH for p, i in zip(rgb(paper), rgb(ink)))
    return "#" + "".join(f"{round(v * 255):02x}" for v in mixed)


@pytest.mark.parametrize("name", list(THEMES))
def test_no_two_roles_are_told_apart_by_colour_alone(name: str) -> None:
    marks = [(r.hatch, r.edge, r.letter) for r in THEMES[name].roles.values()]
    assert len(set(marks)) == len(marks)
    hatches = [r.hatch for r in THEMES[name].roles.values()]
    assert len(set(hatches)) == len(hatches)
    assert "none" not in hatches
    assert len({r.letter for r in THEMES[name].roles.values()}) == len(marks)
