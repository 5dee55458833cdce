"""Input files for ``play``: a JSON list of presses and stick moves by tick."""

from __future__ import annotations

from pathlib import Path

from veergust.core.files.fetch import fetch
from veergust.core.files.text import from_text
from veergust.core.model import DrillStep, Project
from veergust.core.trouble import Trouble, named


def read_inputs(path: Path, project: Project) -> tuple[DrillStep, ...]:
    """The steps of an input file; fighters and commands must be those of the project."""
    steps = from_text(fetch(path), tuple[DrillStep, ...], path.name)
    for i, step in enumerate(steps):
        field = f"[{i}]"
        if step.tick < 0:
            raise Trouble("tick should be at least 0", file=path.name, field=field, do="correct it")
        named(project.stage.fighters, step.fighter, "fighter", file=path.name, field=f"{field}.fighter")
        if step.command:
            named(project.commands, step.command, "command", file=path.name, field=f"{field}.command")
        if step.parameter:
            there = project.locomotion.parameters
            named(there, step.parameter, "parameter", file=path.name, field=f"{field}.parameter")
        if not (step.command or step.action or step.parameter or step.axis == "move"):
            raise Trouble(
                "has no command, no action, no parameter and not the axis move",
                file=path.name,
                field=field,
                do="give one of the four",
            )
        action = None
        if step.action:
            action = named(project.actions, step.action, "action", file=path.name, field=f"{field}.action")
        if step.section:
            sections = action.sections if action is not None else ()
            named(sections, step.section, "section", file=path.name, field=f"{field}.from")
    return steps
