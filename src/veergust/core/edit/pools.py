"""Pools: weighted sets of actions, or of the sections of one, to pick from."""

from __future__ import annotations

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.model import Pool, PoolItem, Project
from veergust.core.trouble import Trouble


def pool_of(project: Project, name: str) -> Pool:
    """A pool by name."""
    found = next((p for p in project.pools if p.name == name), None)
    if found is None:
        raise Trouble(f"there is no pool {name!r}", field="pool", do="choose another, or make one")
    return found


def add_pool(project: Project, name: str) -> Edit:
    """A new, empty pool. Its name is that of no other pool."""
    name = name.strip()
    if not name:
        raise Trouble("a pool needs a name", field="name", do="type one")
    if name in {p.name for p in project.pools}:
        raise Trouble(f"there is a pool {name!r} already", field="name", do="choose another name")
    return Edit(replace(project, pools=(*project.pools, Pool(name=name))), f"New pool {name}")


def remove_pool(project: Project, name: str) -> Edit:
    """The project without a pool. Raises ``Trouble`` while an exit, a gate, a section or a reaction leads to it."""
    users = [
        f"{a.name} › {s.name}"
        for a in project.actions
        for s in a.sections
        if any(e.to_kind == "pool" and e.to == name for e in s.exits) or name in {s.then, *(g.to for g in s.gates)}
    ]
    names = {a.name for a in project.actions}
    users += [f"row {i + 1} of the reactions" for i, r in enumerate(project.reactions) if r.action == name not in names]
    if users:
        raise Trouble(f"{', '.join(users)} leads to it", field="pool", do="lead it elsewhere first")
    return Edit(replace(project, pools=tuple(p for p in project.pools if p.name != name)), f"Remove pool {name}")


def _with(project: Project, pool: Pool, words: str) -> Edit:
    pools = tuple(pool if p.name == pool.name else p for p in project.pools)
    return Edit(replace(project, pools=pools), f"Pool {pool.name}: {words}")


def set_weight(project: Project, name: str, item: str, weight: float) -> Edit:
    """How much an item weighs; 0 takes it out, and one that is not in yet comes in."""
    pool = pool_of(project, name)
    if weight < 0.0:
        raise Trouble("a weight is not below 0", field="weight", do="type a larger number")
    items = tuple(replace(i, weight=weight) if i.name == item else i for i in pool.items)
    if item not in {i.name for i in items}:
        items = (*items, PoolItem(name=item, weight=weight))
    items = tuple(i for i in items if i.weight > 0.0)
    return _with(project, replace(pool, items=items), f"{item} weighs {weight:g}" if weight else f"without {item}")


def set_commands(project: Project, name: str, commands: tuple[str, ...]) -> Edit:
    """The commands that start one of a pool's actions from locomotion."""
    pool = pool_of(project, name)
    return _with(project, replace(pool, commands=commands), f"starts on {', '.join(commands) or 'nothing'}")


def set_apart(project: Project, name: str, apart: int) -> Edit:
    """How many picks must lie between two of one item."""
    pool = pool_of(project, name)
    if not 0 <= apart <= 7:
        raise Trouble("between 0 and 7 picks are remembered", field="apart", do="type another number")
    return _with(project, replace(pool, apart=apart), f"none of the last {apart} again")
