"""Drawn figures on the stage: at their size, upright, where their boxes are; crisp, flipped by facing."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from tools.made.drawings import ARMS, FEET, METRE, built, drawing, drawn_project, said

from veergust.core.play.contact.hurts import volumes_of
from veergust.core.play.pose.posing import body_matrix
from veergust.core.scene.camera import Camera
from veergust.core.scene.dress import figure_mesh
from veergust.core.scene.things import Body, Scene
from veergust.look import THEMES
from veergust.render.painter import Painter
from veergust.render.picture import headless_painter, picture

SIZE = 480, 320
STARTS = (0, 5, 10, 15, 18, 22)


@pytest.fixture(scope="module")
def painter() -> Iterator[Painter]:
    with headless_painter() as made:
        yield made


@pytest.mark.parametrize("facing", [90.0, -90.0])
@pytest.mark.parametrize("flat", [3.0, 8.0])
@pytest.mark.parametrize("looks", ["right", "left"])
def test_a_drawing_stands_where_it_is_drawn_and_its_boxes_with_it(
    painter: Painter, tmp_path: Path, facing: float, flat: float, looks: str
) -> None:
    """From the side, at two scales: what is seen of each cell, and its hurtboxes, are where arithmetic has them, to half
    a pixel of the drawing or of the picture, whichever is larger."""
    folder, _ = drawn_project(tmp_path, said(looks=looks))
    build = built(folder)
    compiled = build.action("jab")
    assert compiled is not None
    mesh = figure_mesh(build.assets, build.project.rig)
    body = body_matrix(np.array([0.4, 0.0, 0.0]), facing)
    camera = Camera(target=(0.4, 1.0, 0.0), yaw=0.0, pitch=0.0, distance=20.0, flat=flat)
    much = SIZE[1] / flat  # pixels of the picture a metre
    bare = picture(painter, Scene(floors=()), camera, THEMES["day"], mesh, SIZE)
    way = (1.0 if looks == "right" else -1.0) * np.sign(facing)
    off = max(0.5 * much / METRE, 0.5) + 0.5
    for start, arm in zip(STARTS, ARMS):
        joints = body @ compiled.world_of(0)[start]
        seen = picture(painter, Scene(bodies=(Body(joints),), floors=()), camera, THEMES["day"], mesh, SIZE)
        rows, columns = np.nonzero((seen != bare).any(axis=-1))
        ink = drawing(arm)[..., 3] > 0
        drawn_rows, drawn_columns = np.nonzero(ink)
        low, high = drawn_columns.min() - FEET[0], drawn_columns.max() + 1 - FEET[0]
        sides = sorted(SIZE[0] / 2 + way * v / METRE * much for v in (low, high))
        assert (columns.min(), columns.max() + 1) == pytest.approx(sides, abs=off)
        top = SIZE[1] / 2 + (1.0 - (FEET[1] - drawn_rows.min()) / METRE) * much
        assert rows.min() == pytest.approx(top, abs=off)
        # The arm's box, where it strikes: its hurtboxes lie over what is drawn of head and trunk.
        for volume in volumes_of(build.hurt_shapes["standing"], joints, joints):
            frame, half = volume.box_frame, volume.half
            assert half is not None
            corners = np.array([frame[:3, 3] - half[[2, 1, 0]], frame[:3, 3] + half[[2, 1, 0]]])
            places = camera.on_pictures(corners, *SIZE)[0]
            rect = {"head": (26, 4, 14, 16), "trunk": (24, 20, 18, 60)}[volume.name]
            want = sorted(SIZE[0] / 2 + way * (v - FEET[0]) / METRE * much for v in (rect[0], rect[0] + rect[2]))
            assert sorted(places[:, 0]) == pytest.approx(want, abs=off)


def test_crisp_pixels_stay_crisp_and_smooth_ones_are_smooth(painter: Painter, tmp_path: Path) -> None:
    """Enlarged forty times, between two colours of a crisp drawing hardly any other is seen."""
    between = {}
    for edges in ("crisp", "smooth"):
        folder, _ = drawn_project(tmp_path / edges, said(edges=edges))
        build = built(folder)
        compiled = build.action("jab")
        assert compiled is not None
        mesh = figure_mesh(build.assets, build.project.rig)
        joints = body_matrix(np.zeros(3), 90.0) @ compiled.world_of(0)[0]
        camera = Camera(target=(0.0, 1.5, 0.0), yaw=0.0, pitch=0.0, distance=20.0, flat=0.2)
        seen = picture(painter, Scene(bodies=(Body(joints),), floors=()), camera, THEMES["day"], mesh, SIZE)
        flat = seen.reshape(-1, 3).astype(int)
        plain = np.array([drawing(4)[10, 30, :3], drawing(4)[30, 30, :3]], dtype=int)
        far = np.abs(flat[:, None] - plain[None]).max(axis=-1).min(axis=-1)
        between[edges] = float((far > 6).mean())
    assert between["crisp"] < 0.02
    assert between["smooth"] > 3 * between["crisp"]


def test_a_guest_is_drawn_as_itself_beside_the_figure_of_the_stage(painter: Painter, tmp_path: Path) -> None:
    """Two meshes in one scene: either is seen where it stands, as it is seen alone."""
    one, other = (built(drawn_project(tmp_path / n, said(looks=n), name=n)[0]) for n in ("right", "left"))
    camera = Camera(target=(0.0, 1.0, 0.0), yaw=0.0, pitch=0.0, distance=20.0, flat=4.0)
    mesh, guest = (figure_mesh(b.assets, b.project.rig) for b in (one, other))
    bodies = []
    for build, x in ((one, -1.0), (other, 1.0)):
        compiled = build.action("jab")
        assert compiled is not None
        bodies.append(body_matrix(np.array([x, 0.0, 0.0]), 90.0) @ compiled.world_of(0)[16])
    both = (Body(bodies[0]), Body(bodies[1], mesh=guest))
    seen = picture(painter, Scene(bodies=both, floors=()), camera, THEMES["day"], mesh, SIZE)
    left = picture(painter, Scene(bodies=both[:1], floors=()), camera, THEMES["day"], mesh, SIZE)
    right = picture(painter, Scene(bodies=(Body(bodies[1]),), floors=()), camera, THEMES["day"], guest, SIZE)
    middle = SIZE[0] // 2
    bare = picture(painter, Scene(floors=()), camera, THEMES["day"], mesh, SIZE)
    assert (left[:, :middle] != bare[:, :middle]).any()
    assert np.array_equal(seen[:, : middle - 60], left[:, : middle - 60])
    assert np.array_equal(seen[:, middle + 60 :], right[:, middle + 60 :])
