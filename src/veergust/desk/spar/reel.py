"""A fighter's narrow sheet at its side of the stage: time scrolls upward, the present is in the middle."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from veergust.core.play import Contact, FighterState, Record
from veergust.desk.frame.session import Session
from veergust.desk.look.theme import Theme, elided
from veergust.desk.widgets.accessible import ToldRow

ROW, HEAD, WIDTH = 14.0, 54, 236


MOST_AT_ONCE = 3
"""So many layers have room beside one another."""
Said = tuple[str, str, str, int, int]


@dataclass
class Block:
    """A run of ticks with the same thing on them."""

    start: int
    end: int
    words: str
    small: str
    role: str
    slot: int = 0
    slots: int = 1
    """Which of so many layers that play at once it is, the lowest first."""

    @property
    def says(self) -> Said:
        """All but its ticks."""
        return self.words, self.small, self.role, self.slot, self.slots


class Reel(QWidget):
    """Shows what one fighter pressed, played, opened, gave and took."""

    def __init__(self, session: Session, theme: Theme, index: int) -> None:
        super().__init__()
        self.session = session
        self.theme = theme
        self.index = index
        self.setFixedWidth(WIDTH)
        self.setAccessibleName(f"Fighter {index + 1}")
        session.moved.connect(self.update)
        theme.changed.connect(self.update)

    def _fighter(self, record: Record) -> FighterState | None:
        return record.fighters[self.index] if self.index < len(record.fighters) else None

    def told(self) -> list[ToldRow]:
        """What the fighter does on the tick that is looked at, for who hears it."""
        record = self.session.record
        fighter = self._fighter(record) if record else None
        if fighter is None:
            return []
        plays = [(v.compiled.action.name, f"{v.part.section.name}, frame {v.frame}") for v in fighter.live()]
        poise = f", poise {fighter.poise:g}" if fighter.setup.poise > 0.0 else ""
        stunned = f", stunned for {fighter.stun} frames" if fighter.stun else ""
        head = ToldRow(fighter.name, f"health {fighter.health:g}{poise}{stunned}", heading=True)
        state = ToldRow(fighter.locomotion[-1].state, "locomotion")
        return [head, state, *(ToldRow(name, says) for name, says in plays)]

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), self.theme.colour("paper"))
        record = self.session.record
        fighter = self._fighter(record) if record else None
        if record is None or fighter is None:
            return
        p.save()
        p.setClipRect(QRectF(0, HEAD, self.width(), self.height() - HEAD))
        self._rows(p)
        self._run(p, self._locomotion_blocks(), 0)
        self._run(p, self._exit_blocks(), 1)
        for slot in range(MOST_AT_ONCE):
            self._run(p, self._action_blocks(slot), 2)
        self._marks(p)
        y = self._present()
        p.setPen(self.theme.pen("ink", 2.0))
        p.drawLine(QPointF(0, y), QPointF(self.width(), y))
        p.restore()
        self._head(p, fighter)

    def _present(self) -> float:
        return HEAD + (self.height() - HEAD) * 0.55

    def _y(self, tick: int) -> float:
        """Top of a tick's row: the one looked at ends on the present line."""
        return self._present() + (tick - self.session.at - 1) * ROW

    def _span(self) -> range:
        """Ticks of the take in sight."""
        above = int((self._present() - HEAD) / ROW) + 2
        below = int((self.height() - self._present()) / ROW) + 2
        at = self.session.at
        return range(max(0, at - above), min(len(self.session.records), at + below))

    def _rows(self, p: QPainter) -> None:
        theme, present = self.theme, self.session.at
        low = present - int((self._present() - HEAD) / ROW) - 1
        high = present + int((self.height() - self._present()) / ROW) + 2
        for tick in range(max(low, 0), high):
            y = self._y(tick)
            five = tick % 5 == 0
            p.setPen(theme.pen("hair", 1.0 if five else 0.5))
            p.drawLine(QPointF(0, y), QPointF(self.width(), y))
            if five:
                p.setFont(theme.bold(12))
                p.setPen(theme.colour("ink_soft" if tick <= present else "ink_faint", 1.0 if tick <= present else 0.5))
                p.drawText(QRectF(0, y - 1, 38, ROW + 2), Qt.AlignmentFlag.AlignRight
                           | Qt.AlignmentFlag.AlignVCenter, str(tick))  # fmt: skip

    def _blocks(self, words_of) -> list[Block]:  # type: ignore[no-untyped-def]
        """Runs of equal answers of ``words_of(fighter)`` over the ticks in sight."""
        out: list[Block] = []
        for tick in self._span():
            fighter = self._fighter(self.session.records[tick])
            said = words_of(fighter) if fighter else None
            if said is None:
                continue
            last = out[-1] if out else None
            if last and last.end == tick and last.says == said:
                last.end = tick + 1
            else:
                out.append(Block(tick, tick + 1, *said))
        return out

    def _action_blocks(self, slot: int) -> list[Block]:
        """What plays on one of the layers that play at once, the lowest first."""

        def words(f: FighterState) -> Said | None:
            live = f.live()[-MOST_AT_ONCE:]
            if not f.advanced:
                return ("hit stop", "", "shield", 0, 1) if slot == 0 else None
            if slot >= len(live):
                return None
            voice, here = live[slot], (slot, len(live))
            for strike in voice.part.section.strikes if not voice.waits else ():
                if strike.start <= voice.frame < strike.end:
                    return strike.name, voice.compiled.action.name, "strike", *here
            name = voice.part.section.name if not voice.waits else "waits"
            name = "stunned" if f.stun and voice.reacts else name
            action = voice.compiled.action.name
            return action, name if name != action else "", "event", *here

        return self._blocks(words)

    def _exit_blocks(self) -> list[Block]:
        def words(f: FighterState) -> Said | None:
            for voice in f.acting():
                for exit_ in voice.part.section.exits:
                    if exit_.kind != "break" and exit_.start <= voice.frame < exit_.end:
                        return "", exit_.to, exit_.kind, 0, 1
            return None

        return self._blocks(words)

    def _locomotion_blocks(self) -> list[Block]:
        def words(f: FighterState) -> Said | None:
            stunned = "stunned" if f.stun else ""
            return (f.locomotion[-1].state, stunned, "capsule", 0, 1) if not f.live() and f.advanced else None

        return self._blocks(words)

    def _run(self, p: QPainter, blocks: list[Block], lane: int) -> None:
        theme = self.theme
        for block in blocks:
            top, bottom = self._y(block.start), self._y(block.end)
            if lane == 1:
                theme.draw_span(p, QRectF(110, top, 12, bottom - top), block.role)
                continue
            wide = (WIDTH - 140) / block.slots
            rect = QRectF(126 + block.slot * wide, top + 1, wide - (3 if block.slots > 1 else 0), bottom - top - 2)
            if lane == 0:
                p.setPen(theme.pen("hair_strong", 1.0, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(rect.left() + 3, rect.top()), QPointF(rect.left() + 3, rect.bottom()))
                colour = "ink_faint"
            else:
                if block.role == "event":
                    p.fillRect(rect, theme.colour("hair"))
                    p.setPen(theme.pen("hair_strong", 1.4))
                    p.drawRect(rect)
                else:
                    theme.draw_span(p, rect, block.role)
                colour = block.role if block.role != "event" else "ink"
            self._block_words(p, block, rect, colour)

    def _block_words(self, p: QPainter, block: Block, rect: QRectF, colour: str) -> None:
        theme = self.theme
        top = max(rect.top(), HEAD)
        lines = [(block.words, theme.bold(12), colour), (block.small, theme.font(12), "ink_soft")]
        for n, (words, font, ink) in enumerate(lines):
            if words and top + n * 14 + (11 if n == 0 else 14) <= rect.bottom() + 1:
                box = QRectF(rect.left() + 6, top - 1 + n * 14, rect.width() - 8, 15)
                if block.role == "strike":
                    p.fillRect(box.adjusted(-4, 1, 0, 0), theme.colour("paper", 0.85))
                p.setFont(font)
                p.setPen(theme.colour(ink))
                p.drawText(box, Qt.AlignmentFlag.AlignVCenter, elided(words, font, box.width()))

    def _marks(self, p: QPainter) -> None:
        """Presses with how long they were remembered, and touches."""
        theme = self.theme
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        for tick in self._span():
            record = self.session.records[tick]
            fighter = self._fighter(record)
            if fighter is None:
                continue
            y = self._y(tick) + ROW / 2
            for n, command in enumerate(fighter.pressed):
                p.setPen(Qt.PenStyle.NoPen)
                p.setBrush(theme.colour("ink"))
                p.drawEllipse(QPointF(50, y + n * ROW), 4, 4)
                p.setFont(theme.bold(12))
                p.setPen(theme.colour("ink"))
                p.drawText(QRectF(58, y - 8 + n * ROW, 50, 16), Qt.AlignmentFlag.AlignVCenter,
                           elided(command, theme.bold(12), 50))  # fmt: skip
            if not fighter.pressed and any(b.age for b in fighter.buffer):
                p.setPen(theme.pen("ink_faint", 1.4, Qt.PenStyle.DotLine))
                p.drawLine(QPointF(50, y - ROW / 2), QPointF(50, y + ROW / 2))
            for contact in record.contacts:
                if fighter.name in (contact.victim, contact.attacker):
                    hurt = fighter.name == contact.victim
                    self._touch(p, y, self.said_of(contact) if hurt else contact.result, hurt)

    def _touch(self, p: QPainter, y: float, words: str, hurt: bool) -> None:
        colour = self.theme.colour("strike")
        p.setPen(colour)
        p.setBrush(colour if hurt else Qt.BrushStyle.NoBrush)
        p.drawEllipse(QPointF(50, y), 4.5, 4.5)
        p.setFont(self.theme.bold(12))
        p.drawText(QRectF(58, y - 8, 52, 16), Qt.AlignmentFlag.AlignVCenter, words)

    @staticmethod
    def said_of(contact: Contact) -> str:
        """A touch in a word, for whom it falls on."""
        if contact.result == "hit":
            return "touched"
        return "guard broken" if contact.breaks else contact.result

    def _head(self, p: QPainter, fighter: FighterState) -> None:
        theme = self.theme
        p.fillRect(QRectF(0, 0, self.width(), HEAD), theme.colour("paper"))
        p.setFont(theme.bold(17))
        p.setPen(theme.colour("ink"))
        p.drawText(QRectF(14, 6, 130, 28), Qt.AlignmentFlag.AlignVCenter, elided(fighter.name, theme.bold(17), 130))
        p.setFont(theme.font(13))
        p.setPen(theme.colour("ink_soft"))
        p.drawText(QRectF(self.width() - 110, 6, 98, 28), Qt.AlignmentFlag.AlignRight
                   | Qt.AlignmentFlag.AlignVCenter, fighter.setup.plays)  # fmt: skip
        full = QRectF(14, 38, self.width() - 28, 6)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.colour("hair"))
        p.drawRoundedRect(full, 3, 3)
        share = max(0.0, min(1.0, fighter.health / max(fighter.setup.health, 1e-9)))
        p.setBrush(theme.colour("ink"))
        p.drawRoundedRect(QRectF(14, 38, full.width() * share, 6), 3, 3)
        if fighter.setup.poise > 0.0:
            held = max(0.0, min(1.0, fighter.poise / fighter.setup.poise))
            p.setBrush(theme.colour("shield"))
            p.drawRect(QRectF(14, 46, full.width() * held, 2))
        p.setPen(theme.pen("hair_strong", 1.4))
        p.drawLine(QPointF(0, HEAD - 0.5), QPointF(self.width(), HEAD - 0.5))
