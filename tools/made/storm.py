"""A storm of edits: the same seed makes the same ones."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterator

from veergust.core.edit import alternates, cuts, layers, masks, sections
from veergust.core.edit.actions import new_action
from veergust.core.edit.clipboard import copy_spans, like, paste_spans
from veergust.core.edit.fields import set_fields, turn_pin
from veergust.core.edit.spans import Edit, SpanRef, add, remove, set_edges
from veergust.core.files.as_files import project_files
from veergust.core.kinds.spans import SPANS
from veergust.core.model import Project
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.trouble import Trouble


def storm(project: Project, assets: Assets, seed: int, count: int) -> Iterator[Edit]:
    """``count`` edits, each made on what the one before left; those that are refused are not counted."""
    rng = random.Random(seed)
    build = CompiledProject(project, assets)
    made = 0
    while made < count:
        try:
            edit = _one(rng, build, assets)
        except Trouble:
            continue
        if edit is None or edit.project == build.project:
            continue
        made += 1
        build = build.renew(edit.project)
        yield edit


def _of_layers(rng: random.Random, build: CompiledProject, action: str) -> list[Callable[[], Edit | None]]:
    """What is done to layers and masks."""
    project, bones = build.project, build.assets.skeleton
    names, painted = [y.name for y in project.layers], [m.name for m in project.masks]
    name, mask, joint = rng.choice(names), rng.choice(painted) if painted else "", rng.choice(bones.names)
    states = ["", *(s.name for s in project.locomotion.states), *(g.name for g in project.locomotion.groups)]
    acts: list[Callable[[], Edit | None]] = [
        lambda: layers.move_layer(project, name, rng.randrange(6)),
        lambda: layers.set_rule(project, name, rng.choice(states), rng.choice([None, *layers.RULES])),
        lambda: layers.put_on(project, action, name),
        lambda: layers.set_layer(project, name, "weight", weight=rng.choice([0.0, 0.5, 1.0])),
        lambda: layers.set_layer(project, name, "space", space=rng.choice(["joint", "body"])),
        lambda: layers.rename_layer(project, name, f"Layer {rng.randrange(99)}"),
        lambda: layers.remove_layer(project, name, rng.choice(names)),
    ]
    acts += [lambda: layers.add_layer(project, name)[0]] if len(names) < 6 else []
    acts += [lambda: masks.add_mask(project)[0]] if len(painted) < 4 else []
    if mask:
        acts += [
            lambda: masks.from_here_on(project, bones, mask, joint, rng.randrange(5), much=rng.choice([0.0, 1.0])),
            lambda: masks.set_weight(project, bones, mask, (joint,), rng.choice([0.0, 0.3, 1.0])),
            lambda: masks.mirrored(project, bones, mask),
            lambda: layers.set_layer(project, name, "mask", mask=mask),
            lambda: masks.remove_mask(project, mask),
        ]
    return [rng.choice(acts)]


def _one(rng: random.Random, build: CompiledProject, assets: Assets) -> Edit | None:
    project = build.project
    action = rng.choice([a for a in project.actions if a.sections] or project.actions)
    name = action.name
    compiled = build.action(name)
    if compiled is None or not action.sections:
        return new_action(project, assets, rng.choice(project.clips).name)[0]
    index = rng.randrange(len(action.sections))
    part = compiled.sections[index]
    section = action.sections[index]
    spans = [SpanRef(name, index, kind, i) for kind in SPANS for i in range(len(getattr(section, kind)))]
    tick = rng.randrange(part.ticks)
    at = rng.randrange(len(section.cuts)) if section.cuts else 0
    ref = rng.choice(spans) if spans else None
    acts: list[Callable[[], Edit | None]] = [
        lambda: add(project, SpanRef(name, index, rng.choice(list(SPANS)), 0), tick, min(tick + 4, part.ticks))[0],
        lambda: sections.set_then(project, name, index, rng.choice(["end", *(s.name for s in action.sections)])),
        lambda: sections.rename_section(project, name, index, f"Part {rng.randrange(99)}"),
        lambda: sections.split_section(project, assets, name, index, tick),
        lambda: sections.move_section(project, name, index, rng.randrange(len(action.sections))),
        lambda: cuts.set_speed(project, assets, name, rng.choice([0.5, 0.8, 1.0, 1.25, 2.0])),
    ]
    if len(action.sections) < 6:
        acts += [lambda: sections.duplicate_section(project, name, index)]
    if len(action.sections) > 1:
        acts += [
            lambda: sections.remove_section(project, name, index),
            lambda: sections.join_sections(project, assets, name, index),
        ]
    if section.cuts:
        acts += [
            lambda: cuts.retime_cut(project, assets, name, index, at, rng.randrange(1, 40)),
            lambda: cuts.change_cut(
                project, assets, name, index, at, start=section.cuts[at].start + rng.uniform(0, 0.1)
            ),
            lambda: cuts.change_cut(project, assets, name, index, at, mirror=rng.random() < 0.5),
            lambda: cuts.split_cut(project, assets, name, index, tick),
            lambda: cuts.remove_cut(project, assets, name, index, at) if len(section.cuts) > 1 else None,
        ]
    if ref is not None:
        acts += [
            lambda: set_edges(project, compiled, ref, rng.randrange(part.ticks), rng.randrange(part.ticks) + 1),
            lambda: turn_pin(project, ref, rng.choice(["start", "end"])),
            lambda: remove(project, ref),
            lambda: paste_spans(project, compiled, index, tick, copy_spans(project, compiled, [ref]),
                                rng.choice(["pose", "frame"]))[0],
            lambda: set_fields(project, [ref], damage=float(rng.randrange(50))) if ref.kind == "strikes" else None,
        ]  # fmt: skip
    acts += _of_layers(rng, build, name)
    if len(action.kept) < 2:
        acts += [lambda: alternates.keep(project, name, f"v{rng.randrange(999)}")]
    if action.kept:
        acts += [lambda: alternates.flip(project, name, 0), lambda: alternates.drop(project, name, 0)]
    if len(project.actions) < 16:
        acts += [lambda: like(project, name)[0]]
    return rng.choice(acts)()


def there_and_back(project: Project, assets: Assets, seed: int, count: int = 1000) -> None:
    """So many edits, undone and done again: each step is what it was."""
    steps = [project, *(edit.project for edit in storm(project, assets, seed, count))]
    kept = [project_files(steps[i]) for i in range(0, len(steps), 100)]
    for files, step in zip(reversed(kept), reversed(steps[::100])):
        assert project_files(step) == files
    for files, step in zip(kept, steps[::100]):
        assert project_files(step) == files


if __name__ == "__main__":
    import sys

    from tools.made import DEMO
    from veergust.core.files.assets import load_assets
    from veergust.core.files.folder import open_project

    demo = open_project(DEMO)
    for run in range(int(sys.argv[1]) if len(sys.argv) > 1 else 100):
        there_and_back(demo, load_assets(demo, DEMO)[0], run)
        print(f"{(run + 1) * 1000} edits, undone and done again", flush=True)
