"""Changing what belongs to the figure: mounts, props, the weapon's line."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.spans import Edit
from veergust.core.kinds import SPANS
from veergust.core.model import Mount, Project, Prop, Rig, Weapon
from veergust.core.trouble import Trouble


def _with_rig(project: Project, rig: Rig, words: str) -> Edit:
    return Edit(replace(project, rig=rig), words)


def _free(wish: str, taken: set[str]) -> str:
    name, n = wish, 2
    while name in taken:
        name, n = f"{wish} {n}", n + 1
    return name


def add_mount(project: Project, joint: str, wish: str = "") -> tuple[Edit, str]:
    """A new mount on a joint, and its name."""
    rig = project.rig
    name = _free(wish or joint, {m.name for m in rig.mounts})
    return _with_rig(
        project, replace(rig, mounts=(*rig.mounts, Mount(name=name, joint=joint))), f"New mount {name}"
    ), name


def set_mount(project: Project, name: str, **changes: Any) -> Edit:
    """A mount with another joint, offset or turn."""
    rig = project.rig
    mounts = tuple(replace(m, **changes) if m.name == name else m for m in rig.mounts)
    return _with_rig(project, replace(rig, mounts=mounts), f"Mount {name}: {', '.join(changes)}")


def remove_mount(project: Project, name: str) -> Edit:
    """The project without a mount. Raises ``Trouble`` while something rides on it."""
    users = mount_users(project, name)
    if users:
        raise Trouble(f"{name} carries {', '.join(users)}", field="mount", do="put it elsewhere first")
    rig = project.rig
    return _with_rig(
        project, replace(rig, mounts=tuple(m for m in rig.mounts if m.name != name)), f"Remove mount {name}"
    )


def mount_users(project: Project, name: str) -> list[str]:
    """What rides on a mount: props, the weapon's line, hands, hitboxes and events."""
    rig = project.rig
    out = [f"prop {p.name}" for p in rig.props if p.mount == name]
    if rig.weapon is not None and name in (rig.weapon.base, rig.weapon.tip):
        out.append("the weapon's line")
    out += [f"the hand {g.hand}" for g in project.grips if name in (g.hand, g.mount)]
    for action in project.actions:
        for section in action.sections:
            spans = [(kind, span) for kind in SPANS.values() for span in kind.of(section) if name in kind.mounts(span)]
            out += [f"{action.name} › {getattr(span, 'name', '') or kind.one}" for kind, span in spans]
    return out


def add_prop(project: Project, file: str, mount: str, wish: str) -> tuple[Edit, str]:
    """A new prop on a mount, and its name."""
    rig = project.rig
    name = _free(wish, {p.name for p in rig.props})
    prop = Prop(name=name, file=file, mount=mount)
    return _with_rig(project, replace(rig, props=(*rig.props, prop)), f"New prop {name}"), name


def set_prop(project: Project, name: str, **changes: Any) -> Edit:
    """A prop on another mount or placed otherwise."""
    rig = project.rig
    props = tuple(replace(p, **changes) if p.name == name else p for p in rig.props)
    return _with_rig(project, replace(rig, props=props), f"Prop {name}: {', '.join(changes)}")


def remove_prop(project: Project, name: str) -> Edit:
    """The project without a prop; its file stays."""
    rig = project.rig
    return _with_rig(project, replace(rig, props=tuple(p for p in rig.props if p.name != name)), f"Remove prop {name}")


def set_weapon(project: Project, base: str, tip: str) -> Edit:
    """The line whose sweep is drawn and measured, from one mount to another; none when they are the same."""
    old = project.rig.weapon
    weapon = replace(old or Weapon(base=base, tip=tip), base=base, tip=tip) if base != tip else None
    words = f"Sweep line {base} → {tip}" if weapon else "No sweep line"
    return _with_rig(project, replace(project.rig, weapon=weapon), words)
