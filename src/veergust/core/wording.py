"""Text that may be shown anywhere: names come from files, and files come from strangers."""

from __future__ import annotations

import unicodedata

_TURNING = {chr(c) for c in (*range(0x202A, 0x202F), *range(0x2066, 0x206A), 0x200E, 0x200F, 0x2028, 0x2029)}
"""Signs that turn the direction of what follows, or break the line."""


def plain(text: str) -> str:
    """``text`` with everything that a terminal would obey, or that is no character, written out as an escape."""
    return text if text.isascii() and text.isprintable() else "".join(_plain(c) for c in text)


def _plain(sign: str) -> str:
    if unicodedata.category(sign) in ("Cc", "Cs") or sign in _TURNING:
        code = ord(sign)
        # A byte that was no UTF-8 in a file name stands as a lone surrogate: shown as the byte it is.
        return f"\\x{code & 0xFF:02x}" if code < 0x100 or 0xDC80 <= code <= 0xDCFF else f"\\u{code:04x}"
    return sign


def listed(names: list[str], most: int = 3) -> str:
    """The first names of a list, and how many more there are."""
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return ", ".join(names[:most]) + more
