"""A save as a plan: what is brought and what goes, made certain on the disk before it counts.

The new files are written into ``.saving/`` and synced, then the list of them, with the digests of what each brings
and of what it replaces. From then on the save is certain: each file is moved into its place, and a crash at any
moment leaves the old project or the list. Who opens the folder to write finishes it, if the list bears their own mark
and every digest still holds; one that came with the folder is finished only when that is asked for by name. Whoever
only reads sees the new files through the list and changes nothing. No link is followed in anything of this.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import re
from collections.abc import Callable, Iterable, Mapping
from typing import Literal

import msgspec

from veergust.core.files.beneath import Beneath, Missing, reference
from veergust.core.files.own import is_own, mark
from veergust.core.trouble import Trouble
from veergust.core.wording import listed

LOG = logging.getLogger(__name__)
SAVING = ".saving"
COMMIT = f"{SAVING}/commit.json"
_DRAFT = f"{SAVING}/commit.draft"
VERSION = 3
_LONGEST_PLAN = 8 << 20
MOST_LOOKED_AT = 256 << 20
"""Bytes that the files of a list may have in all to be looked through, when it came with the folder."""
_OURS = re.compile(
    r"(project|ground|stage)\.json|(actions|stages|drills|takes)/[^/]+\.json|sounds/[^/]+\.wav|clips/[^/]+(/[^/]+){0,7}"
)


class Unfinished(Trouble):
    """A save that is certain and not yet in place: it is finished when the project is next opened or saved."""

    why = ""


class Change(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is to become of one file: the digests of what is there and of what comes; none where nothing is."""

    replaces: str | None = None
    brings: str | None = None


class _Version(msgspec.Struct):
    version: int


class Plan(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The list of a save, with a sum of its own (one that was damaged counts for nothing) and the mark of its maker."""

    version: int
    files: dict[str, Change]
    sum: str
    mark: str

    @property
    def is_own(self) -> bool:
        """Whether this person made it here, and it did not come with the folder."""
        return is_own(self.sum.encode(), self.mark)

    @property
    def words(self) -> str:
        """What finishing it does."""
        brings = [name for name, change in self.files.items() if change.brings is not None]
        goes = [name for name, change in self.files.items() if change.brings is None]
        rows = ([f"write {listed(brings, 4)}"] if brings else []) + ([f"remove {listed(goes, 4)}"] if goes else [])
        return " and ".join(rows)


def digest(data: bytes) -> str:
    """The mark of a file's content."""
    return hashlib.sha256(data).hexdigest()


def is_ours(name: str) -> bool:
    """Whether a name is one that a project's own file may have."""
    try:
        plain = reference(name, file="", field="") == name
    except Trouble:
        return False
    return plain and _OURS.fullmatch(name) is not None and not any(p.startswith(".") for p in name.split("/"))


def digest_of(place: Beneath, name: str) -> str | None:
    """The digest of an ordinary file in a folder; None when it is not there. Raises ``Trouble``, for a link too."""
    try:
        return digest(place.read(name, links=False))
    except Missing:
        return None


Ours = Callable[[str], bool]
"""Whether a name is one that may stand in a list: a project's own files, or those of an export."""


def pending(place: Beneath, ours: Ours = is_ours) -> Plan | None:
    """The list of a save that is certain and not in place, in a folder; None when there is none.

    Raises ``Trouble`` for one that is not ours or does not fit what is there: it is left as it is. Of one's own that is
    half in place already, what somebody else changed since is left out.
    """
    plan = _list(place)
    if plan is None:
        return None
    for name in plan.files:
        if not ours(name):
            what = "a project" if ours is is_ours else "an export"
            raise _left(place, f"it names {name[:80]!r}, which is no file of {what}")
    if not plan.is_own:
        in_all = sum(place.size(name) + place.size(f"{SAVING}/{name}") for name in plan.files)
        if in_all > MOST_LOOKED_AT:
            raise _left(place, f"it was not made here, and its files are {in_all >> 20} MB")
    states = {}
    for name, change in plan.files.items():
        if change.brings is None and change.replaces is None:
            raise _left(place, f"it says nothing of {name}")
        try:
            states[name] = _state(place, name, change)
        except Trouble as error:
            raise _left(place, str(error).rstrip(".")) from error
    others = [name for name, state in states.items() if state in ("other", "overtaken")]
    if not others:
        return plan
    # A save of one's own that is half in place is finished in what nobody changed since: no way leads back.
    if plan.is_own and {"done", "overtaken"} & set(states.values()):
        return msgspec.structs.replace(plan, files={n: c for n, c in plan.files.items() if n not in others})
    raise _left(place, f"{others[0]} is another than the one it was made for")


def _list(place: Beneath) -> Plan | None:
    if not place.kind(SAVING):
        return None
    if place.kind(SAVING) != "folder":
        raise _left(place, f"{SAVING} is no folder of this program")
    if not place.kind(COMMIT):
        return None
    try:
        data = place.read(COMMIT, most=_LONGEST_PLAN, links=False)
        version = msgspec.json.decode(data, type=_Version).version
        plan = msgspec.json.decode(data, type=Plan) if version == VERSION else None
    except (Trouble, msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise _left(place, f"{COMMIT} is not a list this program made") from error
    if plan is None:
        raise _left(place, f"{COMMIT} is version {version}, and this program finishes {VERSION}")
    if plan.sum != _sum(plan.files):
        raise _left(place, f"{COMMIT} is damaged")
    return plan


def coming(place: Beneath, name: str) -> bytes | None:
    """A file that a certain save brings and that may not be in its place yet; None when no list brings it."""
    try:
        plan = _list(place)
        change = plan.files.get(name) if plan is not None else None
        if change is None or change.brings is None or not is_ours(name):
            return None
        data = place.read(f"{SAVING}/{name}", links=False)
    except Trouble:
        return None  # left as it is, or in its place by now
    return data if digest(data) == change.brings else None


def _sum(files: dict[str, Change]) -> str:
    return digest(msgspec.json.encode(files))


def _state(place: Beneath, name: str, change: Change) -> Literal["done", "ready", "other", "overtaken"]:
    """Whether a change is done already, or can be: what it brings lies ready and what it replaces is there. One that
    was done and then changed by somebody else is overtaken."""
    now = digest_of(place, name)
    if now == change.brings:
        return "done" if change.brings != change.replaces else "ready"
    staged = digest_of(place, f"{SAVING}/{name}") if change.brings is not None else None
    if staged == change.brings and now == change.replaces:
        return "ready"
    return "overtaken" if change.brings is not None and staged is None else "other"


def strangers(place: Beneath, plan: Plan) -> Trouble:
    """What is said of a list that fits and was not made here."""
    return Trouble(
        f"an unfinished save lies in it that was not made here, and is left as it is: it would {plan.words}",
        file=place.name,
        do="finish it or throw it away in the window",
    )


def _left(place: Beneath, why: str) -> Trouble:
    return Trouble(
        f"an unfinished save lies in it that is left as it is: {why}",
        file=place.name,
        do=f"throw it away in the window, or remove {SAVING} by hand",
    )


def stage(
    place: Beneath,
    write: dict[str, bytes],
    remove: Iterable[str],
    replaced: Mapping[str, str | None],
    told: Callable[[str], object] = lambda _: None,
    ours: Ours = is_ours,
) -> None:
    """Put new contents beside the old ones, and last of all the list that makes them count.

    ``replaced`` are the digests of what is there now. Raises ``Trouble`` before anything is written for a name that
    the project cannot hold.
    """
    for name, data in write.items():
        LOG.info("writes %s/%s, %d bytes", place.name, name, len(data))
    files = {name: Change(replaced.get(name), digest(data)) for name, data in write.items()}
    files |= {name: Change(replaced.get(name)) for name in remove if replaced.get(name) is not None}
    for name in files:
        _check(place, name, ours)
    made = _sum(files)
    plan = msgspec.json.encode(Plan(VERSION, files, made, mark(made.encode())))
    if len(plan) > _LONGEST_PLAN:
        raise Trouble(f"would change {len(files)} files at once", file=place.name, do="give them shorter names")
    place.clear(SAVING)
    if not files:
        return
    try:
        for name, data in write.items():
            place.write(f"{SAVING}/{name}", data, place.mode(name))
            told(name)
        for name in _one_a_folder(f"{SAVING}/{n}" for n in write):
            place.sync(name)
        place.write(_DRAFT, plan)
        place.move(_DRAFT, COMMIT)
    except BaseException:
        with contextlib.suppress(OSError, Trouble):
            place.clear(SAVING)
        raise
    try:
        place.sync(COMMIT)
        place.sync(SAVING)
    except OSError as error:
        raise _unfinished(place, error) from error


def _check(place: Beneath, name: str, ours: Ours) -> None:
    if not ours(name):
        raise Trouble(
            f"names {name!r}, which it cannot hold",
            file=place.name,
            do="give it a plain name, without : and \\",
        )
    if len(name.rsplit("/", 1)[-1].encode()) > 200:
        raise Trouble(f"names {name[:60]}…, which is too long", file=place.name, do="give it a shorter name")
    place.ordinary(name)


def finish(
    place: Beneath,
    told: Callable[[str], object] = lambda _: None,
    *,
    strange: bool = False,
    ours: Ours = is_ours,
) -> None:
    """Bring a certain save into place; forget one that never became certain.

    Raises ``Trouble`` for a list that does not fit, or that came with the folder unless ``strange`` ones are asked
    for; it is left. Raises ``Unfinished`` when the disk gives out on the way.
    """
    plan = pending(place, ours)
    if plan is not None and not (strange or plan.is_own):
        raise strangers(place, plan)
    if plan is None:
        if place.kind(SAVING):
            place.clear(SAVING)
        return
    try:
        for name, change in plan.files.items():
            if change.brings is None:
                place.remove(name)
            elif place.kind(f"{SAVING}/{name}"):
                place.move(f"{SAVING}/{name}", name)
            told(name)
        for name in _one_a_folder(plan.files):
            place.sync(name)
        place.remove(COMMIT)
        place.sync(COMMIT)
        place.clear(SAVING)
        place.sync(SAVING)
    except OSError as error:
        raise _unfinished(place, error) from error


def _unfinished(place: Beneath, error: OSError) -> Unfinished:
    trouble = Unfinished(
        f"was saved and is not all in place ({error.strerror or error})",
        file=place.name,
        do="make room or mend the rights; opening or saving it again finishes the save",
    )
    trouble.why = str(error.strerror or error)
    return trouble


def throw_away(place: Beneath) -> None:
    """Remove an unfinished save, whatever it is; links are not followed."""
    place.clear(SAVING)
    place.sync(SAVING)


def _one_a_folder(names: Iterable[str]) -> list[str]:
    """A name for each folder that the names lie in."""
    return list({name.rpartition("/")[0]: name for name in names}.values())
