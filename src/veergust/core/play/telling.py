"""Step 10 of the tick: a fighter's events, as they happen: what closes and opens, what touches let go off, and what is
due on the frames that are shown."""

from __future__ import annotations

import numpy as np

from veergust.core.model import Event, Hitbox, Outcome, Strike
from veergust.core.motion import Array, quat
from veergust.core.play.aftermath import Swinging
from veergust.core.play.compiled.project import CompiledProject
from veergust.core.play.contact.applying import do
from veergust.core.play.contact.volumes import box_frame
from veergust.core.play.fired import Fired
from veergust.core.play.pose.posing import body_matrix
from veergust.core.play.pose.speaking import acts
from veergust.core.play.state import FighterState, Voice


def tell(build: CompiledProject, f: FighterState) -> list[Fired]:
    """What a fighter's tick tells, in its order: ends, begins, messages, touches, then what is due on each frame."""
    out: list[Fired] = []
    spans: list[tuple[int, str]] = []
    swings: dict[tuple[int, str], tuple[Voice, Strike, int]] = {}
    if not (f.voices or f.open_spans or f.said or f.came):
        return out
    for voice in f.acting():
        part = voice.part
        due = () if voice.told else part.moments.get(voice.frame, ())
        does = (bool(due) or part.acts) and acts(build, f, voice)
        if due:
            f.put(voice, voice.but(told=True))
        for moment in due if does else ():
            out.append(_fire(build, f, moment.event, voice))
            if moment.sets is not None:
                f.set_parameter(*moment.sets)
        for one in part.told:
            if one.start <= voice.frame < one.end and (does or not one.acts):
                name = f"{voice.compiled.action.name}/{part.section.name}"
                mark = voice.serial, f"{one.one} {name}/{one.place} lap {voice.laps}"
                spans.append(mark)
                if one.runs:
                    swings[mark] = voice, part.section.strikes[one.place], one.place
    begun = [s for s in spans if s not in f.open_spans]
    gone = [s for s in f.open_spans if s not in spans]
    f.open_spans = tuple(spans)
    for mark in begun:
        if mark in swings:
            _swing(build, f, mark, *swings[mark])
    if gone and f.swinging:
        _let_go(f, gone)
    came = [*(Fired(f.name, words, "message", "", f.position) for words in f.said), *f.came]
    f.said, f.came = (), ()
    return (
        [Fired(f.name, s, "end", "", f.position) for _, s in gone]
        + [Fired(f.name, s, "begin", "", f.position) for _, s in begun]
        + came
        + out
    )


def _swing(
    build: CompiledProject, f: FighterState, mark: tuple[int, str], voice: Voice, strike: Strike, place: int
) -> None:
    """A strike that runs something has opened: run it, and wait for whom it touches."""
    met = any((s, i) == (voice.section, place) for s, i, _, _ in voice.touched)
    f.swinging = (*f.swinging, Swinging(*mark, strike, met))
    at = f.position
    frame = _mount_frame(build, f, strike.boxes[0].mount, voice) if strike.boxes else None
    if frame is not None:
        at = frame[:3, 3]
    for outcome in strike.runs:
        if outcome.when == "opens":
            do(outcome, f, _came(f, outcome, at, mark))


def _let_go(f: FighterState, gone: list[tuple[int, str]]) -> None:
    """Strikes have closed: what one runs that has touched nobody."""
    closed = [s for s in f.swinging if (s.serial, s.label) in gone]
    f.swinging = tuple(s for s in f.swinging if s not in closed)
    for swing in closed:
        for outcome in swing.strike.runs if not swing.met else ():
            if outcome.when == "missed":
                do(outcome, f, _came(f, outcome, f.position, (swing.serial, swing.label)))


def _came(f: FighterState, outcome: Outcome, at: Array, of: tuple[int, str]) -> Fired:
    told = f.name, outcome.name, outcome.kind, "", at, f.facing, outcome.payload
    return Fired(*told, mark=f"{outcome.when} {of[0]} {of[1]}")


def _mount_frame(build: CompiledProject, f: FighterState, mount: str, voice: Voice) -> Array | None:
    """The frame of a mount in the world; None where there is none, or no pose."""
    if not mount or f.joints is None:
        return None
    joints = body_matrix(f.position, f.facing) @ f.joints
    return box_frame(build, Hitbox(mount=mount), joints, voice.part.mirrored(voice.frame))


def _fire(build: CompiledProject, f: FighterState, event: Event, voice: Voice) -> Fired:
    mirrored = voice.part.mirrored(voice.frame)
    frame = _mount_frame(build, f, event.mount, voice)
    if frame is None:
        frame = body_matrix(f.position, f.facing)
    offset = np.array(event.offset) * (np.array([-1.0, 1.0, 1.0]) if mirrored else 1.0)
    place = frame[:3, :3] @ offset + frame[:3, 3]
    looks = {"body": f.facing, "mount": float(np.degrees(quat.yaw_of(frame))), "world": 0.0}
    facing, mark = looks[event.facing], f"{voice.section}/{event.tick} lap {voice.laps}"
    told = f.name, event.name, event.kind, event.mount, place, facing, event.payload
    return Fired(*told, voice.serial, mark, event.whom)
