"""What is compiled for a project: actions, ground clips, masks and mounts, looked up by name."""

from __future__ import annotations

import logging
from collections.abc import Callable
from functools import cached_property
from typing import Any, TypeVar

import numpy as np
from msgspec.structs import replace

from veergust.core.model import Action, Clip, Command, Fighter, Floor, Mount, Pool, Project, Stage, State, Thrown
from veergust.core.motion import Array, Assets, Limbs, Roots, hips_of, legs_of
from veergust.core.play.body.floors import rows_of
from veergust.core.play.compiled.action import CompiledAction
from veergust.core.play.compiled.aiming import CompiledAim, compiled_aims
from veergust.core.play.compiled.asked import furthest_press, longest_buffer, with_tag
from veergust.core.play.compiled.blending import CompiledBlend
from veergust.core.play.compiled.chart import Chart
from veergust.core.play.compiled.compiling import MadeFrom, compile_section
from veergust.core.play.compiled.grips import CompiledGrip, holds_of, placed_mount
from veergust.core.play.compiled.hurting import HurtShapes, hurt_shapes_of
from veergust.core.play.compiled.layering import CompiledLayer, compiled_layers
from veergust.core.play.compiled.locomotion_clip import LocomotionClip, Part, bake
from veergust.core.play.compiled.looking import Chain, chain_of
from veergust.core.play.compiled.section import CompiledSection
from veergust.core.play.compiled.steps_back import Before, changed, with_step
from veergust.core.play.compiled.trajectory import Carriage, Pace
from veergust.core.play.compiled.visiting import invited, stays
from veergust.core.play.pose.feet import COLUMNS, fresh
from veergust.core.results import Results

LOG = logging.getLogger(__name__)
T = TypeVar("T")
SPARE = 40
"""So many sections are kept compiled beyond what a project has twice."""
OPEN = Stage(floors=(Floor(low=(-1e4, -1e4), high=(1e4, 1e4)),))


class CompiledProject:
    """Compiled parts of one project, made on demand and kept.

    ``renew`` gives the build of an edited project that shares every part the edit did not touch.
    """

    def __init__(self, project: Project, assets: Assets) -> None:
        self.project = project
        self.assets = assets
        self._sections = Results[MadeFrom, CompiledSection](SPARE)
        self._actions: dict[str, CompiledAction] = {}
        # As they were before the edits that this one came of, the last first.
        self._before: Before = {}
        self._baked: dict[str, LocomotionClip] = {}
        self._mount_places: dict[tuple[str, bool], tuple[int, Array] | None] = {}
        self._asked: dict[tuple[Any, ...], Any] = {}
        self.host = self
        """What is compiled of the project on whose stage this plays, where it is that of a guest."""
        self.memo: dict[Any, Any] = {}
        """For what others work out and can tell by its content whether it still holds; renewed books share it."""

    def of(self, setup: Fighter) -> CompiledProject:
        """What is compiled for a fighter: of this project, or of the one it is a guest from."""
        return self.guests.get(setup.project, self) if setup.project else self

    @cached_property
    def guests(self) -> dict[str, CompiledProject]:
        """What is compiled for guests from other projects, by folder: on this project's stage."""
        return invited(self, CompiledProject)

    @cached_property
    def widest(self) -> float:
        """The radius (m) of the widest body on the stage: this figure's, or a guest's."""
        return max(made.project.rig.capsule.radius for made in (self, *self.guests.values()))

    def ask(self, work: Callable[..., T], *args: Any) -> T:
        """``work(build, *args)``, worked out once. Where it is noted what is read, what this gives counts, and not what
        it reads."""
        key = (work, *args)
        if key not in self._asked:
            self._asked[key] = work(self, *args)
        return self._asked[key]  # type: ignore[no-any-return]

    def tagged(self, tag: str) -> tuple[str, ...]:
        """The actions that have a tag, in the project's order."""
        return self.ask(with_tag, tag)

    def renew(self, project: Project) -> CompiledProject:
        """The build of ``project``, keeping what still holds."""
        if project is self.project:
            return self
        build = CompiledProject(project, self.assets)
        build.memo = self.memo
        if "guests" in self.__dict__:
            build.guests = stays(build, self.guests, project.stage is not self.project.stage)
        if project.rig == self.project.rig and project.settings.rate == self.project.settings.rate:
            gone = changed(self._clips, build._clips) if project.clips is not self.project.clips else set()
            build._sections = self._sections
            build._baked = self._baked
            build._mount_places = self._mount_places
            if gone:
                build._sections = self._sections.without(lambda of: any(cut.clip in gone for cut in of[0]))
                build._baked = {k: v for k, v in self._baked.items() if k not in gone}
            mine, theirs = ((p.pools, p.layers, p.masks, p.locomotion) for p in (self.project, project))
            around = all(a is b for a, b in zip(mine, theirs)) and not gone
            actions = build.actions_by_name
            build._actions = {
                name: made
                for name, made in self._actions.items()
                if (around and actions.get(name) is made.action) or build._is_still(made, gone)
            }
            build._before = with_step(self._before, self._actions, build._actions, actions, gone)
        return build

    def _is_still(self, made: CompiledAction, gone: set[str]) -> bool:
        """Whether an action that was compiled is what would be compiled now; ``gone`` are clips that have changed."""
        action = self.actions_by_name.get(made.action.name)
        if action is None or (action is not made.action and action != made.action) or gone & made.clips:
            return False
        return made.pools == self._led(action) and made.carriage == self._carriage(action)

    @cached_property
    def actions_by_name(self) -> dict[str, Action]:
        """Actions by name, in the project's order."""
        return {action.name: action for action in self.project.actions}

    @cached_property
    def _clips(self) -> dict[str, Clip]:
        return {clip.name: clip for clip in self.project.clips}

    @cached_property
    def states(self) -> dict[str, State]:
        """Locomotion states by name."""
        return {state.name: state for state in self.project.locomotion.states}

    @cached_property
    def chart(self) -> Chart:
        """Locomotion's chart: what lies around its states, what is asked of them, what is entered."""
        return Chart(self.project.locomotion)

    @cached_property
    def blends(self) -> dict[str, CompiledBlend]:
        """The weights of every state that blends, by its name."""
        return {s.name: CompiledBlend(s) for s in self.project.locomotion.states if s.blend}

    @cached_property
    def blend_points(self) -> dict[str, list[tuple[LocomotionClip, float]]]:
        """The clip of each point of a blend and its ground speed (m/s), by state, once it was played."""
        return {}

    @cached_property
    def parts(self) -> dict[tuple[str, tuple[float, ...]], list[Part]]:
        """Mixes of blends that were worked out lately, by state and place."""
        return {}

    @cached_property
    def limbs(self) -> Limbs:
        """The figure's legs, for what lays its feet on the floor."""
        return Limbs.of(legs_of(self.assets.skeleton))

    @cached_property
    def feet(self) -> tuple[int, ...]:
        """The joints of the feet at their ends."""
        return tuple(self.limbs.joints[:, 2].tolist())

    @cached_property
    def fresh_feet(self) -> Array:
        """What is kept of feet that have not stood yet."""
        rows = np.empty((len(self.limbs), COLUMNS))
        fresh(rows)
        return rows

    @cached_property
    def all_own(self) -> tuple[float, ...]:
        """All of each foot is locomotion's, as it is while nothing else plays."""
        return (1.0,) * len(self.limbs)

    @cached_property
    def footroom(self) -> tuple[float, float, float]:
        """How much higher and lower (m) than the body's a floor may be for a foot, and how steep (degrees)."""
        feet = self.project.locomotion.feet
        return feet.raises, feet.drops, feet.turns

    @cached_property
    def look(self) -> Chain:
        """The joints that look at the target."""
        return chain_of(self.assets.skeleton, self.project.locomotion.look)

    @cached_property
    def floors(self) -> Array:
        """The floors of the stage, as what asks for them takes them."""
        return rows_of(self.project.stage.floors)

    @cached_property
    def posts(self) -> tuple[tuple[float, float, float, float, float], ...]:
        """The posts of the stage as round things in the way: x, z, radius, from which height of a body to which (m)."""
        tall = self.project.rig.capsule.height
        rows = [(p.position, p.radius, p.height) for p in self.project.stage.posts]
        return tuple((at[0], at[2], radius, at[1] - tall, at[1] + high) for at, radius, high in rows)

    def within_any(self, state: str, names: tuple[str, ...]) -> bool:
        """Whether a state of locomotion is one of those named, or in a group that is; nothing named is everything."""
        return not names or any(self.chart.within(state, name) for name in names)

    @property
    def idle_state(self) -> State | None:
        """The locomotion state everybody begins in: that of the entry, else the first."""
        return self.states.get(self.chart.entry or "")

    @property
    def idle_clip(self) -> str:
        """The clip of the state everybody begins in, at a standstill; none without locomotion."""
        idle = self.idle_state
        if idle is None:
            return ""
        still = self.blends[idle.name].weights([0.0] * len(idle.over)) if idle.blend else []
        return idle.blend[max(still, key=lambda w: w[1])[0]].clip if still else idle.clip

    @cached_property
    def layers(self) -> dict[str, CompiledLayer]:
        """Layers by name, bottom up."""
        return compiled_layers(self.project, self.assets.skeleton, self.chart, self.root_joint)

    @cached_property
    def waiting_layers(self) -> frozenset[str]:
        """The layers whose actions wait while they are covered."""
        return frozenset(name for name, layer in self.layers.items() if layer.layer.covered == "waits")

    @cached_property
    def fading_layers(self) -> frozenset[str]:
        """The layers whose actions fade out in some state."""
        return frozenset(n for n, y in self.layers.items() if "fades" in (y.layer.elsewhere, *y.rules.values()))

    @cached_property
    def grips(self) -> tuple[CompiledGrip | None, ...]:
        """Where hands are kept on this figure, in the project's order."""
        return holds_of(self.project.grips, self.assets.skeleton, self.mount)

    @cached_property
    def kept_by_layers(self) -> bool:
        """Whether every grip holds only while some action plays."""
        return all(grip.layers for grip in self.project.grips)

    @cached_property
    def commands(self) -> dict[str, Command]:
        """Commands by name, in the project's order."""
        return {command.name: command for command in self.project.commands}

    @cached_property
    def command_order(self) -> dict[str, int]:
        """Each command's place among all."""
        return {name: i for i, name in enumerate(self.commands)}

    def buffer_of(self, command: str) -> int:
        """For how many ticks a press of a command is remembered."""
        own = self.commands[command].buffer if command in self.commands else None
        return self.project.settings.buffer if own is None else own

    @cached_property
    def longest_buffer(self) -> int:
        """For how many ticks any press may count."""
        return self.ask(longest_buffer)

    @cached_property
    def furthest_press(self) -> int:
        """For how many ticks a press may still be one of the first of a sequence."""
        return self.ask(furthest_press)

    @cached_property
    def pools(self) -> dict[str, Pool]:
        """Pools by name."""
        return {pool.name: pool for pool in self.project.pools}

    @cached_property
    def mounts(self) -> dict[str, Mount]:
        """Mounts by name."""
        return {mount.name: mount for mount in self.project.rig.mounts}

    @cached_property
    def roots(self) -> Roots:
        """The rig's root joint and hips; the hips are found by the feet where the rig does not name them."""
        bones, rig = self.assets.skeleton, self.project.rig
        hips = bones.index.get(rig.hips)
        return Roots(bones.index.get(rig.root, -1), hips if hips is not None else hips_of(bones))

    @cached_property
    def pace(self) -> Pace:
        """How fast bodies come up to speed and slow down."""
        its = self.project.locomotion
        braking = its.braking or its.acceleration
        return Pace(its.acceleration, braking, its.friction, its.air_control, self.project.settings.rate)

    @property
    def root_joint(self) -> int:
        """The joint whose weight in a mask says whether a layer moves the body: the rig's root, else its hips."""
        return self.roots.joint

    @cached_property
    def level(self) -> CompiledProject:
        """The same on a wide level floor with nothing on it, where numbers are measured."""
        build = self.renew(replace(self.project, stage=OPEN))
        # Nothing that is compiled depends on the stage: there is one of each, whichever of the two is asked.
        build._actions, build._before = self._actions, self._before
        return build

    def root_share(self, layer: str) -> float:
        """How much of the body's travel an action on ``layer`` makes while nothing is changed by parameters."""
        there = self.layers.get(layer)
        return there.root * there.usual if there is not None else 0.0

    def clip(self, name: str) -> Clip | None:
        """A clip by name."""
        return self._clips.get(name)

    def action(self, name: str) -> CompiledAction | None:
        """The compiled action of that name."""
        if name not in self._actions:
            action = self.actions_by_name.get(name)
            if action is None:
                return None
            before = self._before.get(name, ())
            made = next((m for m in before if self._is_still(m, set())), None)
            if made is None:
                LOG.info("compiles %s", name)
                sections = tuple(self._section(action, i) for i in range(len(action.sections)))
                made = CompiledAction(action, sections, self._led(action), self._carriage(action))
                if before:
                    made.take_trajectory(before[0])
            self._actions[name] = made
        return self._actions[name]

    def prepare(self) -> None:
        """Compile every action and locomotion clip, so that nothing is worked out only when it is first played."""
        for action in self.project.actions:
            self.action(action.name)
        for state in self.project.locomotion.states:
            for name in (state.clip, *(p.clip for p in state.blend)):
                if name:
                    _ = self.locomotion_clip(name).beat
        for setup in self.project.stage.fighters:
            if setup.project in self.guests:
                self.guests[setup.project].prepare()

    def _led(self, action: Action) -> tuple[Pool, ...]:
        """The pools an action's sections lead to."""
        named = {to for s in action.sections for to in (s.then, *(g.to for g in s.gates))}
        return tuple(p for p in self.project.pools if p.name in named)

    def _carriage(self, action: Action) -> Carriage:
        return Carriage(min(self.root_share(action.layer), 1.0), self.pace)

    def _section(self, action: Action, index: int) -> CompiledSection:
        """Compiled section; cuts and root are all that sampling depends on, so they are the key."""
        section = action.sections[index]

        def sampled() -> CompiledSection:
            # Those of the project, once more for a step back, and some of a drag that goes to and fro.
            self._sections.most = SPARE + 2 * sum(len(a.sections) for a in self.project.actions)
            return compile_section(section, action, self.clip, self.assets, self.project.settings.rate, self.roots)

        made = self._sections.of((section.cuts, action.root, action.speed, action.ease), sampled)
        return made if made.section is section else made.with_spans(section)

    def locomotion_clip(self, name: str) -> LocomotionClip:
        """A clip as locomotion plays it: about its body, on a fine grid."""
        if name not in self._baked:
            self._baked[name] = bake(self.assets, self.clip(name), self.roots)
        return self._baked[name]

    @cached_property
    def aims(self) -> tuple[CompiledAim, ...]:
        """The aims of layers, bottom up."""
        return compiled_aims(self.project.layers, self.locomotion_clip)

    @cached_property
    def thrown(self) -> dict[str, Thrown]:
        """What may be thrown, by name; the strike of each is called as it is."""
        return {t.name: replace(t, strike=replace(t.strike, name=t.name)) for t in self.project.thrown}

    @cached_property
    def hurt_shapes(self) -> dict[str, HurtShapes]:
        """The hurtboxes there are, by posture."""
        return hurt_shapes_of(self.project.rig, self.assets.skeleton.index, self.mount)

    def mount(self, name: str, mirrored: bool = False) -> tuple[int, Array] | None:
        """(joint, frame in it ``[4, 4]``) of a mount, or of a joint of that name; on the other side of a mirrored
        pose."""
        if (name, mirrored) not in self._mount_places:
            self._mount_places[name, mirrored] = placed_mount(
                self.mounts.get(name), name, self.assets.skeleton, mirrored
            )
        return self._mount_places[name, mirrored]
