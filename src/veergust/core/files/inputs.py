"""Input files for ``play``: a JSON list of presses and stick moves by tick."""

from __future__ import annotations

from pathlib import Path

from veergust.core.files.fetch import fetch
from veergust.core.files.text import from_text
from veergust.core.model import DrillStep, Project
from veergust.core.trouble import Trouble


def read_inputs(path: Path, project: Project) -> tuple[DrillStep, ...]:
    """The steps of an input file; fighters and commands must be those of the project."""
    steps = from_text(fetch(path), tuple[DrillStep, ...], path.name)
    fighters = {f.name for f in project.stage.fighters}
    commands = {c.name for c in project.commands}
    for i, step in enumerate(steps):
        field = f"[{i}]"
        if step.tick < 0:
            raise Trouble("tick should be at least 0", file=path.name, field=field, do="correct it")
        if step.fighter not in fighters:
            raise Trouble(
                f"names the fighter {step.fighter!r}",
                file=path.name,
                field=f"{field}.fighter",
                do=f"use one of {', '.join(sorted(fighters)) or 'the stage (it has none)'}",
            )
        if step.command and step.command not in commands:
            raise Trouble(
                f"names the command {step.command!r}",
                file=path.name,
                field=f"{field}.command",
                do=f"use one of {', '.join(sorted(commands)) or 'the project (it has none)'}",
            )
        if not step.command and not step.action and step.axis != "move":
            raise Trouble(
                "has no command, no action and not the axis move",
                file=path.name,
                field=field,
                do="give one of the three",
            )
        action = next((a for a in project.actions if a.name == step.action), None)
        if step.action and action is None:
            raise Trouble(
                f"names the action {step.action!r}",
                file=path.name,
                field=f"{field}.action",
                do=f"use one of {', '.join(a.name for a in project.actions) or 'the project (it has none)'}",
            )
        if step.section and (action is None or step.section not in [s.name for s in action.sections]):
            raise Trouble(
                f"begins at {step.section!r}, which {step.action or 'no action'} does not have",
                file=path.name,
                field=f"{field}.from",
                do="use a section of the action",
            )
    return steps
