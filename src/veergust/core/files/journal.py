"""The journal: work done since the last save, kept outside the project folder so that a crash loses none of it."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path
from typing import Any

import msgspec
import platformdirs

from veergust.core.files.folder import project_files, project_from_files, read_folder
from veergust.core.model import Project
from veergust.core.trouble import Trouble


def journal_folder() -> Path:
    """Where journals lie."""
    return platformdirs.user_state_path("veergust") / "journal"


class Journal:
    """One project's journal: a line for each step, with the files that differ from the saved ones."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        key = hashlib.sha256(str(folder.resolve()).encode()).hexdigest()[:16]
        self.path = journal_folder() / f"{key}.jsonl"
        self._last: dict[str, bytes] | None = None

    def _saved(self) -> dict[str, bytes]:
        """The folder's files as last saved; read once, since only a save changes them, and a save clears."""
        if self._last is None:
            self._last = read_folder(self.folder) if self.folder.is_dir() else {}
        return self._last

    def write(self, words: str, project: Project) -> None:
        """Add a step. A journal that cannot be written is no reason to stop work."""
        try:
            saved = self._saved()
            files = project_files(project)
            changed: dict[str, Any] = {p: d.decode() for p, d in files.items() if saved.get(p) != d}
            changed |= {p: None for p in saved if p not in files}
            line = {"folder": str(self.folder), "says": words, "files": changed}
            self.path.parent.mkdir(parents=True, exist_ok=True)
            with self.path.open("ab") as out:
                out.write(msgspec.json.encode(line) + b"\n")
                out.flush()
                os.fsync(out.fileno())
        except (OSError, Trouble):
            return

    def steps(self) -> list[str]:
        """The words of the steps it holds, oldest first."""
        return [line["says"] for line in self._lines()]

    def _lines(self) -> list[dict[str, Any]]:
        """Every whole line; a last one that a crash cut off is left out."""
        out = []
        if self.path.is_file():
            for row in self.path.read_bytes().splitlines():
                try:
                    line = msgspec.json.decode(row)
                except msgspec.DecodeError:
                    break
                if isinstance(line, dict) and isinstance(line.get("files"), dict):
                    out.append(line)
        return out

    def read(self) -> Project | None:
        """The project as the journal's last step left it; None when it holds nothing beyond the saved one."""
        lines = self._lines()
        if not lines or not lines[-1]["files"]:
            return None
        files = read_folder(self.folder)
        for path, text in lines[-1]["files"].items():
            if text is None:
                files.pop(path, None)
            else:
                files[path] = text.encode()
        return project_from_files(files, self.folder.name)

    def clear(self) -> None:
        """Forget everything: it is saved."""
        self._last = None
        self.path.unlink(missing_ok=True)
