"""How an action starts: its layer, the commands and states it names."""

from __future__ import annotations

from collections.abc import Iterator

from veergust.core.kinds import Finding, conditions_known, in_action
from veergust.core.play import CompiledAction, CompiledProject
from veergust.core.study.checks.charts import holds_always


def check(build: CompiledProject, compiled: CompiledAction) -> Iterator[Finding]:
    """Names that lead nowhere, and an action that cannot start where its layer may speak."""
    action = compiled.action
    rule, where = action.start, in_action(action.name, "start")
    if action.layer not in build.layers:
        says = f"no layer {action.layer!r} shows it"
        yield Finding("layer-missing", "error", in_action(action.name), says, "choose a layer of the project")
    for name in rule.commands:
        if name not in build.commands:
            says = f"names the command {name!r}, which the project does not have"
            yield Finding("command-unknown", "error", where, says, "add the command or choose another")
    for state in rule.states:
        if not build.chart.known(state):
            says = f"starts in {state!r}, which is no state"
            yield Finding("state-unknown", "error", where, says, "choose states of locomotion")
    layer = build.layers.get(action.layer)
    chart = build.chart
    starts = [s for s in chart.states if not rule.states or any(chart.within(s, name) for name in rule.states)]
    if layer is not None and starts and rule.commands and not any(layer.rule(s) == "may" for s in starts):
        says = f"starts only where its layer {action.layer} may not speak"
        do = "start it in other states, or let the layer speak there"
        yield Finding("out-of-scope", "warning", where, says, do)
    elif layer is not None and rule.commands:
        # States that are named are meant; of those that are not the layer's scope is what is meant.
        named = [s for s in starts if any(n == s or n in chart.around[s] for n in rule.states)]
        deaf = [s for s in named if layer.rule(s) != "may"]
        if deaf:
            says = f"may start in {', '.join(deaf)}, where its layer {action.layer} starts nothing"
            yield Finding("out-of-scope", "note", where, says, "let the layer speak there, or leave the states out")
    if rule.commands and holds_always(build, rule.conditions) is False:
        says = "never starts by itself: the conditions of its start cannot hold together"
        yield Finding("condition-never", "warning", where, says, "change its conditions")
    yield from conditions_known(build, rule.conditions, where)
