"""What there is to draw: where things stand, and that cameras put them on the picture where they should."""

from __future__ import annotations

import dataclasses
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tools.made.captures import capture, write_bvh
from tools.made.edits import replace, with_section

from tests.conftest import OSSA
from veergust.core.files.bvh_read import read_bvh
from veergust.core.files.fitting import fitted
from veergust.core.model import Action, Hitbox, Post, Project, Rig, Shield, Thrown
from veergust.core.motion import quat
from veergust.core.motion.figure import Assets
from veergust.core.motion.naming import parts_of
from veergust.core.motion.skeleton import Skeleton
from veergust.core.play.compiled.mounts import mount_trajectory
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.simulation import Simulation
from veergust.core.play.state import Input
from veergust.core.play.world import Flying, World
from veergust.core.scene.camera import Camera
from veergust.core.scene.mannequin import mannequin
from veergust.core.scene.view import (
    Shown,
    action_scene,
    body_at,
    clip_scene,
    joints_at,
    key_frames,
    record_scene,
)

PLACES = st.tuples(st.floats(-5, 5), st.floats(-2, 3), st.floats(-5, 5))


@given(place=PLACES, turn=st.floats(-180, 180), tilt=st.floats(-10, 89), far=st.floats(1, 20))
def test_a_point_lands_where_the_matrices_put_it(
    place: tuple[float, ...], turn: float, tilt: float, far: float
) -> None:
    camera = Camera(yaw=turn, pitch=tilt, distance=far)
    width, height = 640, 400
    x, y, scale = camera.on_picture(np.array(place), width, height)
    clip = camera.projection(width / height) @ camera.view() @ np.array([*place, 1.0])
    if scale == 0.0:
        assert clip[3] < 0.06
        return
    assert x == pytest.approx((clip[0] / clip[3] + 1) / 2 * width, abs=1e-6 * far * width + 1e-6)
    assert y == pytest.approx((1 - clip[1] / clip[3]) / 2 * height, abs=1e-6 * far * height + 1e-6)


def test_the_side_view_has_plus_x_on_the_right_and_the_target_in_the_middle() -> None:
    camera = Camera(target=(0.0, 1.0, 0.0), yaw=0.0, pitch=0.0)
    middle = camera.on_picture(np.array([0.0, 1.0, 0.0]), 100, 100)
    assert middle[:2] == pytest.approx((50, 50))
    assert camera.on_picture(np.array([1.0, 1.0, 0.0]), 100, 100)[0] > 60
    assert camera.on_picture(np.array([0.0, 1.5, 0.0]), 100, 100)[1] < 45


def test_cameras_turn_pan_and_zoom_within_bounds() -> None:
    camera = Camera(pitch=80.0).orbit(10, 50)
    assert (camera.yaw, camera.pitch) == (10.0, 89.0)
    assert Camera().zoom(1e-9).distance == 0.8
    assert Camera().zoom(1e9).distance == 40.0
    moved = Camera(target=(0, 0, 0), yaw=0.0, pitch=0.0).pan(1.0, 0.5)
    assert moved.target == pytest.approx((1.0, 0.5, 0.0))


def test_the_action_scene_stands_where_root_motion_has_brought_it(build: CompiledProject) -> None:
    compiled = build.action("Low sweep")
    assert compiled is not None
    place, _ = compiled.travel_to(30)
    assert body_at(compiled, 30)[:3, 3] == pytest.approx([place[2], 0.0, 0.0], abs=1e-6)
    head = build.assets.skeleton.index["head"]
    assert joints_at(compiled, 30)[head, 0, 3] > joints_at(compiled, 0)[head, 0, 3] + 0.2


def test_a_scene_shows_what_is_switched_on_and_the_strike_when_it_is_open(build: CompiledProject) -> None:
    compiled = build.action("Low sweep")
    assert compiled is not None
    opened = action_scene(build, compiled, 10)
    assert [t.role for t in opened.tubes if t.filled] == ["strike"]
    assert not action_scene(build, compiled, 20).tubes
    assert len(opened.ghosts) == 2
    assert len(opened.ribbons[0].low) == 4
    assert len(opened.paths[0].points) == compiled.total + 1
    bare = action_scene(build, compiled, 10, Shown(skins=False, sweep=False, path=False, hitboxes=False))
    assert (bare.ghosts, bare.ribbons, bare.paths, bare.tubes) == ((), (), (), ())
    full = action_scene(build, compiled, 10, Shown(hurtboxes=True, body=True))
    assert len([t for t in full.tubes if t.role == "hurt"]) == len(build.project.rig.hurtboxes)
    assert len([t for t in full.tubes if t.role == "capsule"]) == 1


def test_key_frames_are_where_sections_start_and_strikes_open_and_close(build: CompiledProject) -> None:
    compiled = build.action("Low sweep")
    assert compiled is not None
    assert key_frames(compiled) == [0, 8, 9, 13, 20]


def test_a_mount_follows_the_staff(build: CompiledProject) -> None:
    compiled = build.action("Low sweep")
    assert compiled is not None
    grip, tip = mount_trajectory(build, compiled, "grip"), mount_trajectory(build, compiled, "tip")
    assert grip is not None
    assert tip is not None
    assert np.linalg.norm(tip - grip, axis=1) == pytest.approx(np.full(46, 1.12), abs=1e-4)
    assert mount_trajectory(build, compiled, "wing") is None


def test_boxes_are_drawn_as_their_twelve_edges(quay: Project, assets: Assets) -> None:
    strike = quay.actions[0].sections[1].strikes[0]
    box = Hitbox(mount="tip", shape="box", size=(0.1, 0.2, 0.3))
    build = CompiledProject(with_section(quay, "Low sweep", 1, strikes=(replace(strike, boxes=(box,)),)), assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    tubes = action_scene(build, compiled, 10).tubes
    lengths = sorted(round(float(np.linalg.norm(t.a - t.b)), 6) for t in tubes)
    assert lengths == sorted([0.2] * 4 + [0.4] * 4 + [0.6] * 4)


def test_a_record_shows_both_fighters_their_open_strikes_and_touches(build: CompiledProject) -> None:
    simulation = Simulation(build)
    touched = None
    for t in range(40):
        record = simulation.tick([Input(OSSA, "light")] if t == 0 else [])
        if record.contacts:
            touched = record
            break
    assert touched is not None
    scene = record_scene(build, touched)
    assert [b.tone for b in scene.bodies] == ["body", "partner"]
    assert [t.role for t in scene.tubes] == ["strike"]
    assert [label.text for label in scene.labels] == ["13"]
    assert scene.posts == build.project.stage.posts


def test_empty_and_unknown_things_give_an_empty_scene(build: CompiledProject) -> None:
    nothing = build.renew(replace(build.project, actions=(*build.project.actions, Action(name="Empty"))))
    compiled = nothing.action("Empty")
    assert compiled is not None
    assert action_scene(nothing, compiled, 0).bodies == ()
    assert clip_scene(build, "no such clip", 0).bodies == ()
    assert len(clip_scene(build, "run", 3).bodies) == 1


def creature() -> Skeleton:
    """What is no person: a trunk with two necks and a tail."""
    names = ("body", "neck_a", "jaw_a", "neck_b", "jaw_b", "tail", "tip")
    place = np.array([[0, 0.6, 0], [0.2, 0.2, 0.3], [0.1, 0.3, 0.2], [-0.2, 0.2, 0.3], [-0.1, 0.3, 0.2], [0, 0, -0.5], [0, 0.1, -0.4]])  # fmt: skip
    return Skeleton(names, (-1, 0, 1, 0, 3, 0, 5), np.tile(quat.IDENTITY, (7, 1)), place.astype(float))


def capture_rig(tmp_path: Path) -> Skeleton:
    content = read_bvh(write_bvh(tmp_path, capture(seconds=0.1)))
    rig = Rig(unit=0.01)
    return fitted(content, rig).skeleton


@pytest.mark.parametrize("whose", ["demo", "capture", "creature"])
def test_a_figure_without_a_mesh_gets_a_whole_body_on_its_own_bones(whose: str, assets: Assets, tmp_path: Path) -> None:
    bones = {"demo": lambda: assets.skeleton, "capture": lambda: capture_rig(tmp_path), "creature": creature}[whose]()
    made = mannequin(bones)
    assert made.faces.max() < len(made.points)
    assert np.allclose(made.weights.sum(axis=1), 1.0)
    assert np.isfinite(made.points).all()
    # Closed: every edge has a face on either side, that goes along it the other way.
    edges = {(int(a), int(b)) for f in made.faces for a, b in ((f[0], f[1]), (f[1], f[2]), (f[2], f[0]))}
    assert all((b, a) in edges for a, b in edges)
    # And outside out: what is enclosed has a volume, of a person's some fifty litres.
    a, b, c = (made.points[made.faces[:, k]].astype(float) for k in range(3))
    volume = float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6.0)
    assert volume > 0.0005 if whose == "creature" else 0.03 < volume < 0.12
    if whose != "creature":
        tall = float(np.ptp(bones.rest_world[:, 1, 3]))
        parts = {(p.kind, p.side): j for j, p in enumerate(parts_of(bones)) if not p.end}
        for kind in (
            ("head", ""),
            ("hand", "left"),
            ("hand", "right"),
            ("foot", "left"),
            ("foot", "right"),
            ("hips", ""),
        ):
            own = made.points[made.joints[np.arange(len(made.joints)), made.weights.argmax(axis=1)] == parts[kind]]
            assert len(own) > 20, kind
            assert np.linalg.norm(own - bones.rest_world[parts[kind], :3, 3], axis=-1).max() < 0.2 * tall, kind
        assert made.points[:, 1].min() > bones.rest_world[:, 1, 3].min() - 0.06 * tall


def test_a_record_shows_what_flies_where_it_is_and_only_the_posts_that_stand(build: CompiledProject) -> None:
    record = Simulation(build).tick([])
    posts = (Post(name="here"), Post(name="fallen"), Post(name="stands"))
    build = build.renew(replace(build.project, stage=replace(build.project.stage, posts=posts)))
    thing = Thrown(name="ball", radius=0.17)
    flying = Flying(1, thing, OSSA, 0, (1.0, 2.0, 3.0), (1.5, 2.0, 3.0), (0.0, 0.0, 9.0))
    world = World(things=(flying,), posts=(("fallen", 0.0), ("stands", 3.0)))
    scene = record_scene(build, dataclasses.replace(record, world=world))
    balls = [t for t in scene.tubes if t.role == "event"]
    assert [(tuple(t.a), tuple(t.b), t.radius) for t in balls] == [((1.0, 2.0, 3.0), (1.0, 2.0, 3.0), 0.17)]
    assert scene.posts == (posts[0], posts[2])


def test_the_arc_of_a_guard_lies_about_the_body_on_the_ticks_it_is_up(quay: Project, assets: Assets) -> None:
    """Its ends and its middle are looked for where the body has turned and gone to, to the degree."""
    guard = Shield(start=2, end=9, kind="guard", arc=90.0, toward=40.0, deflects=3)
    build = CompiledProject(with_section(quay, "Low sweep", 1, shields=(guard,)), assets)
    compiled = build.action("Low sweep")
    assert compiled is not None
    first = compiled.start_of(1)
    for tick in range(12):
        frame = first + tick
        arcs = [p.points for p in action_scene(build, compiled, frame).paths if p.role == "shield"]
        assert len(arcs) == (0 if not 2 <= tick < 9 else 2 if tick < 5 else 1)
        body = body_at(compiled, frame)
        for points in arcs:
            way = points - body[:3, 3]
            assert np.ptp(np.hypot(way[:, 0], way[:, 2])) < 1e-6
            turns = np.degrees(np.arctan2(way @ body[:3, 0], way @ body[:3, 2]))
            assert turns[[0, 16, 32]] == pytest.approx([-5.0, 40.0, 85.0], abs=1e-6)


def test_the_hurtboxes_that_are_drawn_are_those_of_how_one_stands(quay: Project, assets: Assets) -> None:
    """In an action on its sections' posture, and in play."""
    boxes = tuple(replace(h, postures=("down",)) if i else h for i, h in enumerate(quay.rig.hurtboxes))
    quay = replace(quay, rig=replace(quay.rig, hurtboxes=boxes))
    counts = []
    for posture in ("", "down"):
        build = CompiledProject(with_section(quay, "Low sweep", 0, posture=posture), assets)
        compiled = build.action("Low sweep")
        assert compiled is not None
        drawn = action_scene(build, compiled, 0, Shown(hurtboxes=True))
        simulation = Simulation(build)
        simulation.start(OSSA, "Low sweep")
        played = record_scene(build, simulation.tick(), Shown(hurtboxes=True, hitboxes=False))
        counts.append([sum(t.role == "hurt" for t in s.tubes) for s in (drawn, played)])
    n = len(boxes)
    assert counts == [[1, 2], [n, n + 1]], "in play there are two, of whom the other stands"
