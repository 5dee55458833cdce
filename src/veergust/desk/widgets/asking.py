"""Dialogs: asked, and let go. One that is only hidden keeps all that it shows, as long as its window is there."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog


def accepted(dialog: QDialog) -> bool:
    """Ask; whether the answer was yes. What was answered can be read until whoever asks is done."""
    try:
        return bool(dialog.exec() == QDialog.DialogCode.Accepted)
    finally:
        dialog.deleteLater()
