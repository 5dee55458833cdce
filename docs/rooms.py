"""The picture of the rooms in docs/architecture.md, drawn from the imports: ``./run shots rooms``."""

from __future__ import annotations

import re
from pathlib import Path

import grimp

PAGE = Path(__file__).resolve().parent / "architecture.md"
BEGIN, END = "<!-- rooms -->\n", "<!-- end of rooms -->"
STACKED = {"veergust.core": "core", "veergust.desk": "desk"}


def graph() -> grimp.ImportGraph:
    """Who imports whom, for types as well; and whom of the core they ask by its name."""
    found = grimp.build_graph("veergust", exclude_type_checking_imports=False, cache_dir=None)
    for module in found.find_modules_that_directly_import("veergust.core"):
        source = PAGE.parent.parent / "src" / f"{module.replace('.', '/')}.py"
        for room in sorted(set(re.findall(r"\bcore\.(\w+)\.", source.read_text()))):
            if f"veergust.core.{room}" in found.modules:
                found.add_import(importer=module, imported=f"veergust.core.{room}")
    return found


def drawn(imports: grimp.ImportGraph) -> str:
    """Rooms and who uses whom (Mermaid), without what follows from the rest."""
    rooms = [room for over in STACKED for room in sorted(imports.find_children(over)) if imports.find_children(room)]
    rooms += [room for room in ("veergust.render", "veergust.cli") if room in imports.modules]
    uses = {
        room: {
            other
            for other in rooms
            if other != room and imports.direct_import_exists(importer=room, imported=other, as_packages=True)
        }
        for room in rooms
    }
    lines = ["```mermaid", "flowchart BT"]
    for over, name in STACKED.items():
        own = [room for room in rooms if room.startswith(over + ".")]
        lines += [f"  subgraph {name}", *(f"    {_id(room)}[{room.rpartition('.')[2]}]" for room in own), "  end"]
    lines += [f"  {_id(room)}[{room.rpartition('.')[2]}]" for room in rooms if room.count(".") == 1]
    for room in rooms:
        lines += [f"  {_id(room)} --> {_id(other)}" for other in sorted(_nearest(uses, room))]
    return "\n".join([*lines, "```", ""])


def _id(room: str) -> str:
    return room.removeprefix("veergust.").replace(".", "_")


def _below(uses: dict[str, set[str]], room: str) -> set[str]:
    out, stack = set[str](), [room]
    while stack:
        for other in uses[stack.pop()] - out:
            out.add(other)
            stack.append(other)
    return out


def _nearest(uses: dict[str, set[str]], room: str) -> set[str]:
    """What a room uses, but for what it reaches through another of them anyway."""
    own = uses[room]
    return {
        other
        for other in own
        if not any(other in _below(uses, third) and third not in _below(uses, other) for third in own - {other})
    }


def on_page() -> str:
    """The picture as the page has it."""
    return PAGE.read_text().split(BEGIN)[1].split(END)[0]


def main() -> int:
    """Draw it anew on the page."""
    before, _, rest = PAGE.read_text().partition(BEGIN)
    PAGE.write_text(before + BEGIN + drawn(graph()) + END + rest.partition(END)[2])
    print(PAGE)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
