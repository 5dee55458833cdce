"""The sheet's keys: everything the mouse does, without it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent

from veergust.core.edit import WHOLE, SpanRef, copy_spans, paste_spans, remove_all, set_edges, span_of, turn_pin
from veergust.core.kinds import SPANS
from veergust.core.trouble import Trouble
from veergust.core.typed import may_become_number, typed_number
from veergust.desk.keys.pressing import BACK, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.sheet.deeds import accept_breaks, accept_hint, fit_here
from veergust.desk.sheet.layout import STANDS, column_of
from veergust.desk.sheet.surface import Surface


class SheetKeys:
    """Moves the playhead and the selection, stretches, moves, sets, adds and removes spans."""

    def __init__(self, sheet: Surface) -> None:
        self.sheet = sheet

    def press(self, event: QKeyEvent) -> bool:
        """Use a key; false when it is none of the sheet's."""
        sheet = self.sheet
        keys = pressed(event)
        if self._is_typed(event):
            self._type(sheet.typed + event.text())
        elif sheet.typed and keys == "Backspace":
            self._type(sheet.typed[:-1])
        elif sheet.typed and keys == "Return":
            self._set_typed()
        else:
            act = self._acts().get(on_key("sheet", keys))
            if act is None:
                return False
            act(-1 if keys.split("+")[-1] in BACK else 1)
        return True

    def _is_typed(self, event: QKeyEvent) -> bool:
        """Whether a key goes on with a number for the edge in hand, or for the cut that is retimed."""
        sheet, sign = self.sheet, event.text()
        held = event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        if held or not sign or not (sheet.document.selection or sheet.retiming):
            return False
        allowed = "0123456789.,%+- smf" if sheet.typed else "0123456789+"
        return sign in allowed and may_become_number(sheet.typed + sign)

    def _acts(self) -> dict[str, Callable[[int], object]]:
        """What each command of the sheet does; it is told which way it goes, where it has a way."""
        sheet, document, section = self.sheet, self.sheet.document, self.sheet.pages.section
        selected = document.selection
        acts: dict[str, Callable[[int], object]] = {
            "frame": lambda way: document.move_to(document.frame + way * sheet.fold),
            "frames": lambda way: document.move_to(document.frame + 10 * way),
            "ends": lambda way: document.move_to(0 if way < 0 else sheet.layout_.total),
            "across": self._across,
            "stretch": lambda way: self._nudge(way, move=False, edge=sheet.edge),
            "stretch_start": lambda way: self._nudge(way, move=False, edge="start"),
            "move": lambda way: self._nudge(way, move=True, edge=sheet.edge),
            "edge": lambda _: self._other_edge(),
            "select_all": lambda _: document.select_all(),
            "add": lambda _: sheet.add_here(),
            "add_whole": lambda _: sheet.add_here(whole=True),
            "add_for_all": lambda _: sheet.add_here(for_all=True),
            "add_gate": lambda _: sheet.add_here("gates"),
            "split_cut": lambda _: section.split_cut(),
            "split_section": lambda _: section.split(),
            "flip": lambda _: sheet.pages.versions.flip(),
            "accept": lambda _: accept_hint(document),
            "accept_breaks": lambda _: accept_breaks(document),
            "fit": lambda _: fit_here(document),
            "mirror": lambda _: section.turn_mirror(),
            "retime": lambda _: self._begin_retiming(),
            "open_wide": lambda _: sheet.open_wide(),
            "fold": lambda _: sheet.fold_section(others=False),
            "fold_others": lambda _: sheet.fold_section(others=True),
            "add_section": lambda _: section.add(),
            "copy": lambda _: self._copy(),
            "paste": lambda _: self._paste("pose"),
            "paste_frame": lambda _: self._paste("frame"),
            "escape": lambda _: sheet.escape(),
        }
        if selected is not None:
            acts |= {
                "pin": lambda _: document.apply(turn_pin(document.project, selected, sheet.edge)),
                "remove": lambda _: document.apply(remove_all(document.project, document.selected)),
                "fields": lambda _: sheet.details_wanted.emit(),
            }
        return acts

    def _type(self, text: str) -> None:
        self.sheet.typed = text
        self.sheet.viewport().update()

    def _other_edge(self) -> None:
        self.sheet.edge = "start" if self.sheet.edge == "end" else "end"
        self.sheet.viewport().update()

    def _begin_retiming(self) -> None:
        self.sheet.retiming = True
        self._type("")

    def _across(self, step: int) -> None:
        sheet = self.sheet
        columns = list(STANDS)
        at = columns.index(sheet.column) if sheet.column in columns else 0
        sheet.column = columns[min(max(at + step, 0), len(columns) - 1)]
        here = [
            p.ref
            for p in sheet.layout_.placed
            if column_of(p.ref.kind) == sheet.column
            and p.ref.section != WHOLE
            and p.rect.top() <= sheet.layout_.y(sheet.document.frame) + 0.5 < p.rect.bottom()
        ]
        sheet.document.select(here[-1] if here else None)
        sheet.viewport().update()

    def _edges(self) -> tuple[SpanRef, int, int] | None:
        sheet = self.sheet
        ref = sheet.document.selection
        span = span_of(sheet.document.project, ref) if ref else None
        if ref is None or span is None or ref.section == WHOLE:
            return None
        return (ref, span.tick, span.tick + 1) if SPANS[ref.kind].moment else (ref, span.start, span.end)

    def _lay(self, ref: SpanRef, start: int, end: int, show: str) -> None:
        sheet = self.sheet
        compiled = sheet.document.build.action(ref.action)
        assert compiled is not None
        sheet.document.apply(set_edges(sheet.document.project, compiled, ref, start, end))
        first = compiled.start_of(ref.section)
        sheet.document.move_to(first + (end if show == "end" and not SPANS[ref.kind].moment else start))

    def _nudge(self, step: int, move: bool, edge: str) -> None:
        sheet = self.sheet
        found = self._edges()
        compiled = sheet.document.compiled
        if found is None or compiled is None:
            return
        ref, start, end = found
        ticks = compiled.sections[ref.section].ticks
        if move or SPANS[ref.kind].moment:
            if start + step >= 0 and end + step <= ticks:
                self._lay(ref, start + step, end + step, "start")
        elif edge == "start":
            self._lay(ref, min(max(start + step, 0), end - 1), end, "start")
        else:
            self._lay(ref, start, min(max(end + step, start + 1), ticks), "end")

    def _read(self, text: str, now: float, whole: tuple[float, float]) -> int | None:
        """What was typed, in frames; a text that is no number is said."""
        rate = self.sheet.document.project.settings.rate
        read = typed_number(text, unit="f", now=now, rate=rate, whole=whole, signed=False)
        if read is None:
            self.sheet.document.said.emit(f"{text} is no frame: type 12, 0.2 s, 15% or +3.", True)
        return None if read is None else round(read)

    def _copy(self) -> None:
        sheet = self.sheet
        refs, compiled = sheet.document.selected, sheet.document.compiled
        if refs and compiled is not None:
            sheet.carried = copy_spans(sheet.document.project, compiled, refs)
            many = f"{len(refs)} spans" if len(refs) > 1 else "The span"
            sheet.document.said.emit(f"{many} copied. Ctrl+V pastes by the pose, Ctrl+Shift+V by the frame.", False)

    def _paste(self, by: str) -> None:
        document, compiled = self.sheet.document, self.sheet.document.compiled
        if compiled is None or not compiled.sections:
            return
        section, tick = compiled.locate(document.frame)
        try:
            edit, refs = paste_spans(document.project, compiled, section, tick, self.sheet.carried, by)
        except Trouble as trouble:
            document.said.emit(str(trouble), True)
            return
        document.apply(edit)
        document.select(refs[0])

    def _set_typed(self) -> None:
        sheet = self.sheet
        text, sheet.typed = sheet.typed, ""
        compiled = sheet.document.compiled
        if sheet.retiming:
            sheet.retiming = False
            part = sheet.pages.section.part
            ticks = self._read(text, sheet.pages.section.length.value(), (0, part.ticks if part is not None else 0))
            if ticks is not None:
                sheet.pages.section.retime(ticks)
            return
        found = self._edges()
        if found is None or compiled is None:
            return
        ref, start, end = found
        first = compiled.start_of(ref.section)
        opens = SPANS[ref.kind].moment or sheet.edge == "start"
        number = self._read(
            text, first + (start if opens else end), (first, first + compiled.sections[ref.section].ticks)
        )
        if number is None:
            return
        tick = number - first
        if SPANS[ref.kind].moment or sheet.edge == "start":
            self._lay(ref, tick, max(end, tick + 1), "start")
        else:
            self._lay(ref, min(start, tick - 1), tick, "end")
