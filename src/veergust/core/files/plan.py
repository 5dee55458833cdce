"""A save as a plan: what is brought and what goes, made certain on the disk before it counts.

The new files are written into ``.saving/`` and synced, then the list of them, with the digests of what each brings
and of what it replaces. From then on the save is certain: each file is moved into its place, and a crash at any
moment leaves the old project or the list. Who opens the folder to write finishes it, if the list is one of ours and
every digest still holds; whoever only reads sees the new files through the list and changes nothing.
"""

from __future__ import annotations

import contextlib
import hashlib
import logging
import re
from collections.abc import Callable, Iterable, Mapping

import msgspec

from veergust.core.files.beneath import Beneath, Missing, reference
from veergust.core.trouble import Trouble

LOG = logging.getLogger(__name__)
SAVING = ".saving"
COMMIT = f"{SAVING}/commit.json"
_DRAFT = f"{SAVING}/commit.draft"
VERSION = 2
_LONGEST_PLAN = 16 << 20
_OURS = re.compile(
    r"(project|ground|stage)\.json|(actions|drills)/[^/]+\.json|sounds/[^/]+\.wav|clips/[^/]+(/[^/]+){0,7}"
)


class Unfinished(Trouble):
    """A save that is certain and not yet in place: it is finished when the project is next opened or saved."""


class Change(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What is to become of one file: the digests of what is there and of what comes; none where nothing is."""

    replaces: str | None = None
    brings: str | None = None


class Plan(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """The list of a save, with a sum of its own: one that was damaged counts for nothing."""

    version: int
    files: dict[str, Change]
    sum: str


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
    """The digest of a file in a folder; None when it is not there."""
    try:
        return digest(place.read(name))
    except Missing:
        return None


def pending(place: Beneath) -> Plan | None:
    """The list of a save that is certain and not in place, in a folder; None when there is none.

    Raises ``Trouble`` for one that is not ours or does not fit what is there: it is left as it is.
    """
    if not place.kind(SAVING):
        return None
    if place.kind(SAVING) != "folder":
        raise _left(place, f"{SAVING} is no folder of this program")
    if not place.kind(COMMIT):
        return None
    try:
        plan = msgspec.json.decode(place.read(COMMIT, most=_LONGEST_PLAN), type=Plan)
    except (Trouble, msgspec.MsgspecError, UnicodeDecodeError, RecursionError) as error:
        raise _left(place, f"{COMMIT} is not a list this program made") from error
    if plan.version != VERSION:
        raise _left(place, f"{COMMIT} is version {plan.version}, and this program finishes {VERSION}")
    if plan.sum != _sum(plan.files):
        raise _left(place, f"{COMMIT} is damaged")
    for name, change in plan.files.items():
        if not is_ours(name):
            raise _left(place, f"it names {name[:80]!r}, which is no file of a project")
        if change.brings is None and change.replaces is None:
            raise _left(place, f"it says nothing of {name}")
        try:
            fits = _fits(place, name, change)
        except Trouble as error:
            raise _left(place, str(error).rstrip(".")) from error
        if not fits:
            raise _left(place, f"{name} is another than the one it was made for")
    return plan


def _sum(files: dict[str, Change]) -> str:
    return digest(msgspec.json.encode(files))


def _fits(place: Beneath, name: str, change: Change) -> bool:
    """Whether a change is done already, or can be: what it brings lies ready and what it replaces is there."""
    now = digest_of(place, name)
    if now == change.brings:
        return True
    staged = change.brings is None or digest_of(place, f"{SAVING}/{name}") == change.brings
    return staged and now == change.replaces


def _left(place: Beneath, why: str) -> Trouble:
    return Trouble(
        f"an unfinished save lies in it that is left as it is: {why}",
        file=place.name,
        do=f"throw it away in the window, or remove {SAVING} by hand",
    )


def stage(place: Beneath, write: dict[str, bytes], remove: Iterable[str], replaced: Mapping[str, str | None]) -> None:
    """Put new contents beside the old ones, and last of all the list that makes them count.

    ``replaced`` are the digests of what is there now. Raises ``Trouble`` before anything is written for a name that
    the project cannot hold.
    """
    for name, data in write.items():
        LOG.info("writes %s/%s, %d bytes", place.name, name, len(data))
    files = {name: Change(replaced.get(name), digest(data)) for name, data in write.items()}
    files |= {name: Change(replaced.get(name)) for name in remove if replaced.get(name) is not None}
    for name in files:
        _check(place, name)
    place.clear(SAVING)
    if not files:
        return
    try:
        for name, data in write.items():
            place.write(f"{SAVING}/{name}", data, place.mode(name))
        for name in _one_a_folder(f"{SAVING}/{n}" for n in write):
            place.sync(name)
        place.write(_DRAFT, msgspec.json.encode(Plan(VERSION, files, _sum(files))))
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


def _check(place: Beneath, name: str) -> None:
    if not is_ours(name):
        raise Trouble(
            f"names {name!r}, which a project cannot hold",
            file=place.name,
            do="give it a plain name, without : and \\",
        )
    if len(name.rsplit("/", 1)[-1].encode()) > 200:
        raise Trouble(f"names {name[:60]}…, which is too long", file=place.name, do="give it a shorter name")
    parts = name.split("/")
    for i in range(1, len(parts)):
        above = "/".join(parts[:i])
        if place.kind(above) not in ("", "folder", "link"):
            raise Trouble("is a file where a folder should be", file=f"{place.name}/{above}", do="move it away")
    if place.kind(name) not in ("", "file", "link"):
        raise Trouble("is a folder where a file should be", file=f"{place.name}/{name}", do="move it away")


def finish(place: Beneath, told: Callable[[str], object] = lambda _: None) -> None:
    """Bring a certain save into place; forget one that never became certain.

    Raises ``Trouble`` for a list that is not ours or does not fit, which is left, and ``Unfinished`` when the disk
    gives out on the way.
    """
    plan = pending(place)
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
    return Unfinished(
        f"was saved and is not all in place ({error.strerror or error})",
        file=place.name,
        do="make room or mend the rights; opening or saving it again finishes the save",
    )


def throw_away(place: Beneath) -> None:
    """Remove an unfinished save, whatever it is; links are not followed."""
    place.clear(SAVING)
    place.sync(SAVING)


def _one_a_folder(names: Iterable[str]) -> list[str]:
    """A name for each folder that the names lie in."""
    return list({name.rpartition("/")[0]: name for name in names}.values())
