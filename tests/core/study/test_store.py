"""What is kept of what was worked out is never anything else than what would be worked out now."""

from __future__ import annotations

import random
from threading import Event, RLock, Thread

from hypothesis import given, settings
from hypothesis import strategies as st
from tools.made.edits import replace, with_action, with_section
from tools.made.storm import storm

from veergust.core.model import Action, Exit, Pool, PoolItem, Project, StartRule
from veergust.core.motion.figure import Assets
from veergust.core.play.compiled.asked import action_names, longest_buffer, started_by, with_tag
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.study.clip_reading import idle_pose, reading_of
from veergust.core.study.facts import facts
from veergust.core.study.findings import findings, found_around, found_in_action
from veergust.core.study.store import Recorder, Store
from veergust.core.study.timing import hints

WORKS = (found_in_action, hints)


def everything(build: CompiledProject, store: Store | None, rng: random.Random) -> list[object]:
    """Every kind of derived value of a project, from a store or anew; facts of one action, which take long."""

    def of(work, *args):  # type: ignore[no-untyped-def]
        return store.of(work, build, *args) if store is not None else work(build, *args)

    names = [a.name for a in build.project.actions]
    out: list[object] = [findings(build, store) if store is not None else findings(build), of(found_around)]
    out += [of(work, name) for work in WORKS for name in names]
    out += [of(action_names), of(longest_buffer), of(started_by, "light"), of(with_tag, "heavy")]
    if names:
        out.append(of(facts, rng.choice(names), False))
    pose = of(idle_pose)
    out.append(None if pose is None else (pose.rotation.tobytes(), pose.translation.tobytes()))
    return out


def shaken(project: Project, rng: random.Random) -> Project:
    """An edit of what lies around the actions: clips, locomotion, reactions, lists, names, other versions."""
    actions, clips = list(project.actions), list(project.clips)
    kind = rng.choice(
        ["clip", "rename", "drop", "ground", "reactions", "commands", "settings", "pool", "start", "rig", "exit"]
    )
    if kind == "clip" and clips:
        i = rng.randrange(len(clips))
        clips[i] = replace(
            clips[i], rate=rng.choice([0.5, 1.0, 2.0]), mirror=rng.random() < 0.3, loop=rng.random() < 0.5
        )
        return replace(project, clips=tuple(clips))
    if kind == "rename" and actions:
        i = rng.randrange(len(actions))
        actions[i] = replace(actions[i], name=f"{actions[i].name}’")
        return replace(project, actions=tuple(actions))
    if kind == "drop" and len(actions) > 4:
        actions.pop(rng.randrange(len(actions)))
        return replace(project, actions=tuple(actions))
    if kind == "ground":
        locomotion = project.locomotion
        return replace(
            project,
            locomotion=replace(locomotion, entry=rng.choice(locomotion.states).name, friction=rng.uniform(1, 20)),
        )
    if kind == "reactions":
        return replace(
            project, reactions=tuple(rng.sample(project.reactions, rng.randrange(len(project.reactions) + 1)))
        )
    if kind == "commands":
        return replace(project, commands=tuple(rng.sample(project.commands, rng.randrange(len(project.commands) + 1))))
    if kind == "settings":
        return replace(project, settings=replace(project.settings, buffer=rng.randrange(12)))
    if kind == "pool" and actions:
        items = tuple(PoolItem(name=a.name) for a in rng.sample(actions, min(2, len(actions))))
        return replace(project, pools=(Pool(name="some", items=items),))
    if kind == "rig":
        hurtboxes = tuple(rng.sample(project.rig.hurtboxes, rng.randrange(len(project.rig.hurtboxes) + 1)))
        return replace(project, rig=replace(project.rig, hurtboxes=hurtboxes))
    if actions:
        i = rng.randrange(len(actions))
        if kind == "exit" and actions[i].sections:
            to = rng.choice([*(a.name for a in actions), "nobody", "heavy"])
            exit_ = Exit(
                start=0, end=3, command="light", to=to, to_kind=rng.choice(["action", "tag", "pool"]), section="Swing"
            )
            section = replace(actions[i].sections[0], exits=(exit_,))
            actions[i] = replace(actions[i], sections=(section, *actions[i].sections[1:]))
        else:
            rule = StartRule(
                commands=tuple(rng.sample(["light", "dodge", "none"], 1)), string_memory=rng.choice([0, 20])
            )
            actions[i] = replace(actions[i], start=rule, tags=tuple(rng.sample(["heavy", "low"], 1)))
    return replace(project, actions=tuple(actions))


@settings(max_examples=2)
@given(seed=st.integers(0, 2**32))
def test_through_random_edits_every_kept_value_is_the_one_worked_out_anew(
    quay: Project, assets: Assets, seed: int
) -> None:
    rng = random.Random(seed)
    store, build, past = Store(), CompiledProject(quay, assets), [quay]
    for edit in storm(quay, assets, seed, 6):
        project = edit.project if rng.random() < 0.4 else shaken(build.project, rng)
        if rng.random() < 0.2:
            project = rng.choice(past)  # undone
        past.append(project)
        build = build.renew(project)
        pick = rng.randrange(10**6)
        kept = everything(build, store, random.Random(pick))
        fresh = everything(CompiledProject(project, assets), None, random.Random(pick))
        assert kept == fresh


def test_findings_see_a_section_go_that_another_actions_exit_leads_to(quay: Project, assets: Assets) -> None:
    exit_ = Exit(start=0, end=2, command="light", to="Thrust", section="Settle")
    led = with_section(quay, "Low sweep", 1, exits=(exit_,))
    store, build = Store(), CompiledProject(led, assets)
    before = findings(build, store)
    thrust = next(a for a in led.actions if a.name == "Thrust")
    there = "Settle" in {s.name for s in thrust.sections}
    sections = tuple(replace(s, name="Other") if s.name == "Settle" else s for s in thrust.sections)
    other = with_action(led, "Thrust", sections=sections)
    after = findings(build.renew(other), store)
    assert there
    assert "exit-section-missing" not in {f.code for f in before}
    assert "exit-section-missing" in {f.code for f in after}
    assert after == findings(CompiledProject(other, assets))


def test_what_is_not_touched_is_not_worked_out_again(quay: Project, assets: Assets) -> None:
    store, build = Store(), CompiledProject(quay, assets)
    calls: list[str] = []

    def count(noted: CompiledProject, name: str) -> int:
        calls.append(name)
        compiled = noted.action(name)
        return compiled.total if compiled is not None else 0

    for name in ("Thrust", "Low sweep", "Thrust"):
        store.of(count, build, name)
    assert calls == ["Thrust", "Low sweep"]
    edited = build.renew(with_action(quay, "Thrust", blend_in=7))
    for name in ("Thrust", "Low sweep"):
        store.of(count, edited, name)
    assert calls == ["Thrust", "Low sweep", "Thrust"]
    store.of(count, build, "Thrust")
    assert len(calls) == 3, "the one before is kept as well"


def test_a_store_stays_within_its_bounds(quay: Project, assets: Assets) -> None:
    store, build = Store(most=5), CompiledProject(quay, assets)
    for n in range(40):
        store.of(with_tag, build, f"tag {n}")
    assert len(store._kept) == 5


def test_a_noted_book_answers_as_the_book_does(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    noted = Recorder(build, Store())
    for name in ("states", "idle_clip", "waiting_layers", "commands", "pools", "mounts", "roots", "longest_buffer"):
        assert getattr(noted, name) == getattr(build, name), name
    assert noted.level.project.stage == build.level.project.stage
    assert ("field", "stage") not in noted.reads
    assert reading_of(noted, "idle") is not None
    assert ("clip", "idle") in noted.reads
    assert Action(name="x") not in noted.project.actions


def counted(build: CompiledProject, name: str) -> int:
    """A work that tells how often it is done."""
    done.append(name)
    compiled = build.action(name)
    return compiled.total if compiled is not None else 0


done: list[str] = []


def test_what_was_saved_is_worked_out_once_however_long_a_drag_goes_on(quay: Project, assets: Assets) -> None:
    store, saved = Store(), CompiledProject(quay, assets)
    build = saved
    done.clear()
    for n in range(20):
        build = build.renew(with_action(quay, "Low sweep", speed=1.0 + 0.01 * (n + 1)))
        store.of(counted, build, "Low sweep")
        store.of(counted, saved, "Low sweep")
    assert len(done) == 21


def test_a_step_back_finds_what_was_compiled_and_worked_out_before_it(quay: Project, assets: Assets) -> None:
    store, build = Store(), CompiledProject(quay, assets)
    states = [quay, *(with_action(quay, "Low sweep", speed=s) for s in (1.1, 1.2))]
    made = []
    done.clear()
    for project in states:
        build = build.renew(project)
        made.append(build.action("Low sweep"))
        store.of(counted, build, "Low sweep")
    # An equal project that is another object, as when the same is dragged to again, is as good.
    for n in (1, 0, 1, 2, 0):
        project = replace(states[n], actions=tuple(replace(a) for a in states[n].actions))
        build = build.renew(project)
        assert build.action("Low sweep") is made[n]
        store.of(counted, build, "Low sweep")
    assert len(done) == 3


def test_a_step_back_after_a_clip_was_changed_is_compiled_anew(quay: Project, assets: Assets) -> None:
    build = CompiledProject(quay, assets)
    build.action("Low sweep")
    clips = tuple(replace(c, rate=2.0) if c.name == "staff_sweep" else c for c in quay.clips)
    for project in (with_action(quay, "Low sweep", speed=1.3), replace(quay, clips=clips)):
        build = build.renew(project)
    again = build.action("Low sweep")
    fresh = CompiledProject(replace(quay, clips=clips), assets).action("Low sweep")
    assert again is not None
    assert fresh is not None
    assert [s.ticks for s in again.sections] == [s.ticks for s in fresh.sections]
    assert again.world_of(1).tobytes() == fresh.world_of(1).tobytes()


def test_two_who_ask_at_once_have_it_worked_out_once(quay: Project, assets: Assets) -> None:
    """One that asks from another thread, while it is being worked out, waits until it is."""
    store, build, waits = Store(), CompiledProject(quay, assets), Event()
    worked, answers = list[str](), list[object]()

    class Seen:
        """The lock, which tells that somebody waits at it."""

        def __init__(self) -> None:
            self.lock = RLock()

        def __enter__(self) -> None:
            if not self.lock.acquire(blocking=False):
                waits.set()
                self.lock.acquire()

        def __exit__(self, *_: object) -> None:
            self.lock.release()

    def work(noted: CompiledProject) -> object:
        if not worked:
            other.start()
            assert waits.wait(20)
        worked.append("once")
        return object()

    store._lock = Seen()  # type: ignore[assignment]
    other = Thread(target=lambda: answers.append(store.of(work, build)))
    answers.append(store.of(work, build))
    other.join()
    assert worked == ["once"]
    assert answers[0] is answers[1]
