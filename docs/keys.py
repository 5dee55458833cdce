"""The tables of keys in the README, from the one in the code: ``./run shots keys``."""

from __future__ import annotations

from pathlib import Path

from veergust.desk.keys.table import as_markdown

PAGE = Path(__file__).resolve().parents[1] / "README.md"
BEGIN, END = "<!-- keys -->\n", "<!-- end of keys -->"


def main() -> int:
    """Write them anew."""
    before, _, rest = PAGE.read_text().partition(BEGIN)
    PAGE.write_text(before + BEGIN + as_markdown() + END + rest.partition(END)[2])
    print(PAGE)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
