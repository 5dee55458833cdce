"""References that must stay inside a folder."""

from __future__ import annotations

from pathlib import Path, PurePosixPath

from veergust.core.trouble import Trouble


def inside(reference: str, folder: Path, *, beside: Path | None = None, file: str, field: str) -> Path:
    """The path of ``reference`` (relative to ``beside`` or ``folder``), refused when it leaves ``folder``.

    Absolute paths, ``..``, drive letters, other schemes and symbolic links that lead out are refused.
    """
    pure = PurePosixPath(reference.replace("\\", "/"))
    bad = not reference or pure.is_absolute() or ".." in pure.parts or ":" in reference or "\0" in reference
    target = (beside or folder) / pure
    if not bad:
        try:
            bad = not target.resolve().is_relative_to(folder.resolve())
        except (OSError, RuntimeError):
            bad = True
    if bad:
        raise Trouble(
            f"names {reference!r}, which is outside the folder",
            file=file,
            field=field,
            do="put the file into the folder and name it without a path",
        )
    return target
