"""What a stage carries from tick to tick beside its fighters: things that fly, and what posts have left."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from veergust.core.kinds import Vector
from veergust.core.model import Post, Strike, Thrown
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.contact import Contact

MOST_FLYING = 128
"""No more things than so many fly at once; what would be one more is not let go."""


class Flying(NamedTuple):
    """A thing that flies: which it is among all, what, whose, let go by the action of that serial, where it is and was
    (m), how fast (m/s), for how many ticks, and whom it has touched or was evaded by."""

    number: int
    thing: Thrown
    owner: str
    serial: int
    position: Vector
    before: Vector
    velocity: Vector
    age: int = 0
    touched: tuple[str, ...] = ()
    evaded: tuple[str, ...] = ()

    @property
    def strike(self) -> Strike:
        """What it does to whom it touches, by its own name."""
        return self.thing.strike

    @property
    def label(self) -> str:
        """What the take calls it."""
        return f"thrown {self.thing.name} {self.number}"


class World(NamedTuple):
    """Things that fly, how many were ever let go, and what posts that can be felled have left."""

    things: tuple[Flying, ...] = ()
    let_go: int = 0
    posts: tuple[tuple[str, float], ...] = ()

    @property
    def fallen(self) -> tuple[str, ...]:
        """The posts that are no more."""
        return tuple([name for name, left in self.posts if left <= 0.0])


EMPTY = World()


def world_of(build: CompiledProject, before: World = EMPTY) -> World:
    """The stage as it begins; what there was ``before`` an edit stays as far as it is still there."""
    had = dict(before.posts)
    posts = tuple((p.name, had.get(p.name, p.health)) for p in build.project.stage.posts if p.health > 0.0)
    whose = {f.name: build.of(f).thrown for f in build.project.stage.fighters} if build.guests else {}
    things = tuple(
        f._replace(thing=known[f.thing.name])
        for f in before.things
        for known in (whose.get(f.owner, build.thrown),)
        if f.thing.name in known
    )
    return World(things, before.let_go, posts)


def hurt_posts(world: World, contacts: Sequence[Contact]) -> World:
    """The world once posts have taken the damage of a tick's touches."""
    if not world.posts:
        return world
    taken: dict[str, float] = {}
    for contact in contacts:
        taken[contact.victim] = taken.get(contact.victim, 0.0) + contact.damage
    return world._replace(posts=tuple([(name, left - taken.get(name, 0.0)) for name, left in world.posts]))


def posts_left(build: CompiledProject, world: World) -> tuple[Post, ...]:
    """The posts that still stand."""
    posts = build.project.stage.posts
    fallen = world.fallen if world.posts else ()
    return tuple(p for p in posts if p.name not in fallen) if fallen else posts


def discs_left(build: CompiledProject, world: World) -> tuple[tuple[float, float, float, float, float], ...]:
    """The posts that still stand as round things in the way, as the build has them."""
    fallen = world.fallen if world.posts else ()
    if not fallen:
        return build.posts
    return tuple(disc for disc, p in zip(build.posts, build.project.stage.posts) if p.name not in fallen)
