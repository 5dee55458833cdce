"""The clips of a project as rows of the library: by their first tag, narrowed by a text, and sorted."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, Qt

from veergust.core.model import Clip
from veergust.core.study import length_and_travel
from veergust.desk.document.document import Document

Role = Qt.ItemDataRole
Index = QModelIndex | QPersistentModelIndex
NOWHERE = QModelIndex()
SORTS = ("project", "name", "length", "travel", "uses")


@dataclass(frozen=True)
class LibraryEntry:
    """What a row says of a clip."""

    seconds: float
    frames: int
    travel: float
    uses: tuple[str, ...]


class LibraryModel(QAbstractListModel):
    """A row for each clip that is shown, and one for each tag over those that have it."""

    def __init__(self, document: Document) -> None:
        super().__init__()
        self.document = document
        self.rows: list[Clip | str] = []
        self.text = ""
        self.sorted_by = "project"
        self._entries: dict[str, tuple[object, LibraryEntry]] = {}

    @property
    def clips(self) -> list[Clip]:
        """The clips that are shown, in their order."""
        return [row for row in self.rows if isinstance(row, Clip)]

    def entry(self, clip: Clip) -> LibraryEntry:
        """What a row says; kept until the clip or what uses it changes."""
        used = tuple(self.document.derived.users().get(clip.name, ()))
        mark = (clip, used, id(self.document.build.assets))
        kept = self._entries.get(clip.name)
        if kept is None or kept[0] != mark:
            build, rate = self.document.build, self.document.project.settings.rate
            seconds, travel = length_and_travel(build.assets, clip, build.roots)
            kept = self._entries[clip.name] = mark, LibraryEntry(seconds, max(1, round(seconds * rate)), travel, used)
        return kept[1]

    def renew(self) -> None:
        """Have the rows that there are now."""
        rows = self._found()
        if [_name(row) for row in rows] != [_name(row) for row in self.rows]:
            self.beginResetModel()
            self.rows = rows
            self.endResetModel()
        else:
            self.rows = rows

    def _found(self) -> list[Clip | str]:
        used = self.document.derived.users()
        groups: dict[str, list[Clip]] = {}
        for clip in self.document.project.clips:
            named = self.text in clip.name.lower() or any(self.text in tag.lower() for tag in clip.tags)
            if named or (self.text == "unused" and clip.name not in used):
                groups.setdefault(clip.tags[0] if clip.tags else "", []).append(clip)
        out: list[Clip | str] = []
        for title in sorted(groups, key=lambda t: (not t, t.lower())):
            out += [title or "no tag"] if len(groups) > 1 or title else []
            out += self._sorted(groups[title])
        return out

    def _sorted(self, clips: list[Clip]) -> list[Clip]:
        match self.sorted_by:
            case "name":
                return sorted(clips, key=lambda c: c.name.lower())
            case "length":
                return sorted(clips, key=lambda c: -self.entry(c).seconds)
            case "travel":
                return sorted(clips, key=lambda c: -self.entry(c).travel)
            case "uses":
                return sorted(clips, key=lambda c: -len(self.entry(c).uses))
            case _:
                return clips

    def row_of(self, name: str) -> QModelIndex:
        """Where a clip stands; nowhere when it is not shown."""
        at = next((i for i, row in enumerate(self.rows) if isinstance(row, Clip) and row.name == name), -1)
        return self.index(at) if at >= 0 else QModelIndex()

    def at(self, index: Index) -> Clip | None:
        """The clip of a row; none on a heading."""
        row = self.rows[index.row()] if index.isValid() else None
        return row if isinstance(row, Clip) else None

    def rowCount(self, parent: Index = NOWHERE) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def flags(self, index: Index) -> Qt.ItemFlag:
        plain = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemNeverHasChildren
        return plain | Qt.ItemFlag.ItemIsSelectable if self.at(index) is not None else plain

    def data(self, index: Index, role: int = Role.DisplayRole) -> object:
        clip = self.at(index)
        if role == Role.DisplayRole:
            return clip.name if clip is not None else self.rows[index.row()]
        if role == Role.AccessibleDescriptionRole:
            if clip is None:
                return "heading"
            says = self.entry(clip)
            return f"{says.frames} frames, {says.seconds:.2f} s, used {len(says.uses)} times"
        return None


def _name(row: Clip | str) -> tuple[bool, str]:
    return (True, row.name) if isinstance(row, Clip) else (False, row)
