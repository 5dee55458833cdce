"""The reaction table: what it plays, and strengths it has no row for."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, Ref, in_action
from veergust.core.play import CompiledProject


def check(build: CompiledProject) -> Iterator[Finding]:
    """Rows that play what is not there, and strikes that none of them answers."""
    rows = build.project.reactions
    for i, row in enumerate(rows):
        target = build.actions_by_name.get(row.action)
        where = Ref("reactions", "", ("reactions", f"row {i + 1}"), index=i)
        if target is None and row.action in build.pools:
            if not any(build.action(item.name) for item in build.pools[row.action].items):
                says = f"plays one of {row.action!r}, which has no action"
                yield Finding("reaction-missing", "error", where, says, "put actions into the pool, or choose another")
        elif target is None:
            says = f"plays {row.action!r}, which is no action"
            yield Finding("reaction-missing", "error", where, says, "choose an action")
        elif row.section and row.section not in {s.name for s in target.sections}:
            says = f"begins at {row.section!r}, no section of {row.action}"
            yield Finding("reaction-missing", "error", where, says, "choose a section of it")
        if row.region not in ("any", *(h.region for h in build.project.rig.hurtboxes)):
            says = f"is for touches on {row.region!r}, where no hurtbox is"
            yield Finding("reaction-region", "warning", where, says, "choose a region of the figure's hurtboxes")
    strengths = {row.strength for row in rows}
    if not rows or "any" in strengths:
        return
    for action in build.project.actions:
        for n, section in enumerate(action.sections):
            for i, strike in enumerate(section.strikes):
                if strike.strength not in strengths:
                    at = in_action(action.name, section.name, strike.name, section=n, kind="strikes", index=i)
                    says = f"has the strength {strike.strength!r}, which no reaction is for"
                    do = "add a row to the reactions, or choose another strength"
                    yield Finding("strength-unanswered", "warning", at, says, do)
