"""The list of actions on the left: by group, with total frames and a bar of their phases."""

from __future__ import annotations

from collections.abc import Iterator

from PySide6.QtCore import QElapsedTimer, QModelIndex, QPersistentModelIndex, QPoint, QSize, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QApplication, QFrame, QMenu, QTreeView

from veergust.core.edit import place_action
from veergust.desk.document.document import Document
from veergust.desk.keys.pressing import BACK, last_of, pressed
from veergust.desk.keys.table import on_key
from veergust.desk.look.theme import Theme
from veergust.desk.sheet.actions_ink import ActionInk, Index
from veergust.desk.sheet.actions_model import GROUP_ROLE, NONE, ActionsModel
from veergust.desk.widgets.scrolled import scrolled_as_it_was
from veergust.desk.widgets.slices import Slices

WIDTH = 196
MEASURED_AT_ONCE = 64
FARTHER = 8
"""Pixels that a press has to move to be a drag."""
Move = QAbstractItemView.CursorAction


class ActionList(QTreeView):
    """Shows every action; a click or a key opens one, a drag (or Alt+Up and Down) puts it elsewhere, a click on a
    heading folds the group."""

    remove_wanted = Signal()
    like_wanted = Signal()
    picked = Signal()
    """An action was clicked on, and not dragged elsewhere."""

    def __init__(self, document: Document, theme: Theme) -> None:
        super().__init__()
        self.document, self.theme = document, theme
        self.rows = ActionsModel(document)
        self.ink = ActionInk(self, self.rows, theme)
        self._pressed: tuple[str, int] | None = None
        self._typed = QElapsedTimer()
        self._followed = ""
        self._slices = Slices(self, MEASURED_AT_ONCE)
        self.setObjectName("actions")
        self.setModel(self.rows)
        self.setItemDelegate(self.ink)
        self.setHeaderHidden(True)
        self.setRootIsDecorated(False)
        self.setIndentation(0)
        self.setExpandsOnDoubleClick(False)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setToolTip(
            "Type a name to go to it; drag to sort or put into another group (Alt+Up, Alt+Down); Delete removes"
        )
        self.setAccessibleName("Actions")
        document.changed.connect(self._renew)
        theme.changed.connect(self.viewport().update)
        self._renew()

    def sizeHint(self) -> QSize:
        return QSize(WIDTH, 400)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.currentIndex().isValid():
            self.scrollTo(self.currentIndex())

    def row_of(self, name: str) -> QModelIndex:
        """Where an action or a group stands."""
        found = self.rows.row_of(name)
        headings = (self.rows.index(i, 0) for i in range(self.rows.rowCount()))
        return found if found.isValid() else next((h for h in headings if h.data(GROUP_ROLE) == name), found)

    def _renew(self) -> None:
        folded = {str(h.data(GROUP_ROLE)) for h in self._headings() if not self.isExpanded(h)}
        if self.rows.is_otherwise:
            with scrolled_as_it_was(self):
                self.rows.renew()
                for heading in self._headings():
                    self.setExpanded(heading, str(heading.data(GROUP_ROLE)) not in folded)
            self.ink.drawn.clear()
            self.ink.drop = self._pressed = None
            self._followed = ""
        self._follow()
        if not self.document.dragging:
            longest = self.rows.longest
            self._slices.begin(self._measured())
            if self.rows.longest != longest:
                self.viewport().update()
        self._draw_what_changed()

    def _headings(self) -> list[QModelIndex]:
        return [self.rows.index(i, 0) for i in range(self.rows.rowCount())]

    def _measured(self) -> Iterator[None]:
        """Measure all actions, and draw bars to another scale when that has changed."""
        longest = self.rows.longest
        yield from self.rows.measure()
        if self.rows.longest != longest:
            self.viewport().update()

    def _follow(self) -> None:
        """Have the open action chosen, and in sight."""
        name = self.document.action
        here = self.rows.row_of(name)
        if name != self._followed and here.isValid():
            self._followed = name
            self.setExpanded(here.parent(), True)
            self.setCurrentIndex(here)
            self.scrollTo(here)

    def _draw_what_changed(self) -> None:
        for name, drawn in list(self.ink.drawn.items()):
            index = self.rows.row_of(name)
            rect = self.visualRect(index)
            if not rect.intersects(self.viewport().rect()):
                del self.ink.drawn[name]  # drawn anew when it comes into sight
            elif self.rows.says(name) != drawn:
                self.update(index)

    def currentChanged(self, current: Index, previous: Index) -> None:
        super().currentChanged(current, previous)
        self.viewport().update()
        if current.parent().isValid():
            self.document.choose_action(str(current.data()))

    # By mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        index = self.indexAt(event.position().toPoint())
        if not index.isValid():
            return
        if index.parent().isValid():
            self.setCurrentIndex(index)
            if event.button() == Qt.MouseButton.LeftButton:
                self._pressed = str(index.data()), int(event.position().y())
        elif event.button() == Qt.MouseButton.LeftButton:
            self._fold(index, self.isExpanded(index))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pressed is not None and abs(event.position().y() - self._pressed[1]) > FARTHER:
            onto = self.indexAt(QPoint(60, int(event.position().y())))
            self.ink.drop = QPersistentModelIndex(onto) if onto.isValid() else None
            self.viewport().update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        pressed, drop = self._pressed, self.ink.drop
        self._pressed = self.ink.drop = None
        self.viewport().update()
        if pressed is not None and drop is None:
            self.picked.emit()
        if pressed is not None and drop is not None and drop.data() != pressed[0]:
            self._put(pressed[0], str(drop.data(GROUP_ROLE) or ""), str(drop.data() or ""))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)

    def _put(self, name: str, heading: str, before: str) -> None:
        """Put an action before another, or first into a group."""
        actions = self.document.project.actions
        if heading:
            before = next((a.name for a in actions if (a.group or NONE) == heading and a.name != name), "")
            group = "" if heading == NONE else heading
        else:
            group = next((a.group for a in actions if a.name == before), "")
        self.document.apply(place_action(self.document.base, name, group, before))

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("Like this one", self.like_wanted.emit)
        menu.addAction("Remove…", self.remove_wanted.emit)
        menu.popup(event.globalPos())

    # By keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = pressed(event)
        does, way = on_key("actions", keys), -1 if last_of(keys) in BACK else 1
        if does == "remove_action":
            self.remove_wanted.emit()
        elif does == "place_action":
            self._shift(way)
        elif does == "fold_actions":
            heading = self.currentIndex().parent()
            self._fold(heading if heading.isValid() else self.currentIndex(), way < 0)
        elif does == "other_action":
            super().keyPressEvent(event)
        elif self._is_typed(event):
            self.keyboardSearch(event.text())
        else:
            event.ignore()  # whoever is around it may know it

    def _is_typed(self, event: QKeyEvent) -> bool:
        """Whether a key is part of a name that is typed: a letter, or after one whatever a name may have."""
        going_on = self._typed.isValid() and self._typed.elapsed() < QApplication.keyboardInputInterval()
        held = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        fits = event.text().isalnum() or (going_on and event.text().isprintable() and event.text() != "")
        if held or not fits:
            return False
        self._typed.start()
        return True

    def moveCursor(self, action: Move, modifiers: Qt.KeyboardModifier) -> QModelIndex:
        """Where a key leads: past headings, unless what is under them is folded away."""
        led = super().moveCursor(action, modifiers)
        back = action in (Move.MoveUp, Move.MovePrevious, Move.MovePageUp, Move.MoveEnd)
        at = self._past_headings(led, back)
        # A page up that ends on the first heading is to the first action.
        return at if at.isValid() else self._past_headings(led, not back)

    def _past_headings(self, at: QModelIndex, back: bool) -> QModelIndex:
        while at.isValid() and not at.parent().isValid() and self.isExpanded(at):
            at = self.indexAbove(at) if back else self.indexBelow(at)
        return at

    def _fold(self, heading: QModelIndex, shut: bool) -> None:
        """Fold a group to its name, which is then where the keys are, or unfold it."""
        if not heading.isValid():
            return
        if shut and self.currentIndex().parent() == heading:
            self.setCurrentIndex(heading)
        self.setExpanded(heading, not shut)
        here = self.rows.row_of(self.document.action)
        if not shut and here.parent() == heading:
            self.setCurrentIndex(here)

    def _shift(self, by: int) -> None:
        """The open action one row up or down in its group."""
        actions = self.document.project.actions
        here = next((a for a in actions if a.name == self.document.action), None)
        if here is None:
            return
        own = [a.name for a in actions if a.group == here.group]
        at = own.index(here.name) + by
        if 0 <= at < len(own):
            after = own[at + 1] if by > 0 and at + 1 < len(own) else ""
            self.document.apply(place_action(self.document.base, here.name, here.group, own[at] if by < 0 else after))
