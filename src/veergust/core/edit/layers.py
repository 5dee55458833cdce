"""Layers: made, doubled, put above one another, named, removed; their rules state by state."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace

from veergust.core.edit.alternates import throughout
from veergust.core.edit.names import free, typed
from veergust.core.edit.spans import Edit
from veergust.core.model import Action, Layer, Project, Rule, Speaks
from veergust.core.play import Chart
from veergust.core.trouble import Trouble, named

MOST_LAYERS = 100
RULES: tuple[Rule, ...] = ("may", "fades", "finishes", "keeps out")


def users_of(project: Project, name: str) -> tuple[str, ...]:
    """The actions on a layer."""
    return tuple(a.name for a in project.actions if a.layer == name)


def _put(project: Project, layers: tuple[Layer, ...], words: str) -> Edit:
    return Edit(replace(project, layers=layers), words)


def add_layer(project: Project, after: str = "") -> tuple[Edit, str]:
    """A new layer over ``after`` (over all, where none is named), and its name. Raises ``Trouble`` past the most."""
    if len(project.layers) >= MOST_LAYERS:
        raise Trouble(f"there are {MOST_LAYERS} layers, which are the most", field="layers", do="remove one first")
    names = [y.name for y in project.layers]
    at = names.index(after) + 1 if after in names else len(names)
    name = free("Layer", {y.name for y in project.layers})
    layers = (*project.layers[:at], Layer(name=name), *project.layers[at:])
    return _put(project, layers, f"New layer {name}"), name


def double_layer(project: Project, name: str) -> tuple[Edit, str]:
    """A layer like another, over it, and its name."""
    edit, made = add_layer(project, name)
    like = replace(named(project.layers, name, "layer"), name=free(name, {y.name for y in project.layers}))
    layers = tuple(like if y.name == made else y for y in edit.project.layers)
    return _put(project, layers, f"{like.name} like {name}"), like.name


def move_layer(project: Project, name: str, to: int) -> Edit:
    """A layer at another place, counted from the bottom."""
    layer = named(project.layers, name, "layer")
    rest = [y for y in project.layers if y.name != name]
    to = min(max(to, 0), len(rest))
    rest.insert(to, layer)
    return _put(project, tuple(rest), f"{name}: {'at the bottom' if to == 0 else f'over {rest[to - 1].name}'}")


def rename_layer(project: Project, old: str, new: str) -> Edit:
    """A layer under another name; its actions follow. Raises ``Trouble`` for a name that is empty or taken."""
    new = typed(new, old, {y.name for y in project.layers}, "layer")
    named(project.layers, old, "layer")
    layers = tuple(replace(y, name=new) if y.name == old else y for y in project.layers)
    grips = tuple(replace(g, layers=tuple(new if n == old else n for n in g.layers)) for g in project.grips)
    return Edit(replace(_on(project, old, new), layers=layers, grips=grips), f"Layer {old} → {new}")


def _on(project: Project, old: str, new: str) -> Project:
    """The project with the actions of a layer on another."""

    def moved(action: Action) -> Action:
        return replace(action, layer=new) if action.layer == old else action

    return replace(project, actions=tuple(throughout(a, moved) for a in project.actions))


def remove_layer(project: Project, name: str, onto: str = "") -> Edit:
    """The project without a layer, its actions on ``onto``. Raises ``Trouble`` where they would be left without."""
    named(project.layers, name, "layer")
    users = users_of(project, name)
    left = tuple(y for y in project.layers if y.name != name)
    if users and onto not in {y.name for y in left}:
        raise Trouble(
            f"would leave {', '.join(users[:4])}{' …' if len(users) > 4 else ''} without a layer",
            field="layer",
            do="say which layer they go to" if left else "make another layer first",
        )
    moved = f", its actions on {onto}" if users else ""
    # A hand that was kept while it showed is kept while the one shows that its actions are on.
    follow = {name: onto} if users else {}
    grips = tuple(
        replace(g, layers=tuple(dict.fromkeys(follow.get(n, n) for n in g.layers if n != name or users)))
        for g in project.grips
    )
    grips = tuple(g for g, old in zip(grips, project.grips) if g.layers or not old.layers)
    made = replace(_on(project, name, onto) if users else project, layers=left, grips=grips)
    return Edit(made, f"Remove layer {name}{moved}")


def set_layer(project: Project, name: str, words: str, **fields: Any) -> Edit:
    """A layer with other fields. Raises ``Trouble`` for a mask or a clip that is not there."""
    made = replace(named(project.layers, name, "layer"), **fields)
    if fields.get("mask") and fields["mask"] not in {m.name for m in project.masks}:
        raise Trouble(f"there is no mask {fields['mask']!r}", field="mask", do="choose one, or make it")
    if fields.get("reference") and fields["reference"] not in {c.name for c in project.clips}:
        raise Trouble(f"there is no clip {fields['reference']!r}", field="reference", do="choose a clip")
    return _put(project, tuple(made if y.name == name else y for y in project.layers), f"{name}: {words}")


def set_rule(project: Project, name: str, state: str, rule: Rule | None) -> Edit:
    """What a layer does in a state or group (empty: elsewhere); None: as it does in what is around it.

    What is so anyhow is not written down.
    """
    layer = named(project.layers, name, "layer")
    if not state:
        return set_layer(project, name, f"{rule or 'may'} elsewhere", elsewhere=rule or "may")
    chart = Chart(project.locomotion)
    # What is said of a group is said of all that stands in it.
    rows = [row for row in layer.scope if not (row.state in chart.around and chart.within(row.state, state))]
    rows = [row for row in rows if row.state != state]
    said = {row.state: row.rule for row in rows}
    around = chart.around.get(state, ())
    if rule is not None and rule != next((said[g] for g in around if g in said), layer.elsewhere):
        rows.append(Speaks(state=state, rule=rule))
    order = {n: i for i, n in enumerate([*(s.name for s in project.locomotion.states)])}
    rows.sort(key=lambda row: order.get(row.state, -1))
    says = f"{rule} in {state}" if rule is not None else f"in {state} as around it"
    return set_layer(project, name, says, scope=tuple(rows))


def put_on(project: Project, action: str, layer: str) -> Edit:
    """An action on another layer; fades that were those of its layer become those of the new one."""
    to = named(project.layers, layer, "layer")
    there = named(project.actions, action, "action")
    old = next((y for y in project.layers if y.name == there.layer), Layer(name=""))
    fields: dict[str, Any] = {"layer": layer}
    if (there.blend_in, there.blend_out) == (old.blend_in, old.blend_out):
        fields |= {"blend_in": to.blend_in, "blend_out": to.blend_out}
    actions = tuple(replace(a, **fields) if a.name == action else a for a in project.actions)
    return Edit(replace(project, actions=actions), f"{action}: layer {layer}")
