"""Long work on another thread, with words about how far it is, that can be given up."""

from __future__ import annotations

import importlib
import threading
import time
import weakref
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Qt, Signal, Slot

from veergust.core.files.faults import note
from veergust.core.files.reading import Progress, Stopped
from veergust.core.trouble import Trouble

PATIENCE = 3.0
"""So long (s) the end of the program waits for what still goes on."""
_running: set[BackgroundTask] = set()


_ends: list[weakref.WeakMethod[Callable[[], object]]] = []


def before_the_end(finish: Callable[[], object]) -> None:
    """Have a method called before the program ends, while what it is of is still there: it waits for its thread."""
    _ends.append(weakref.WeakMethod(finish))


def end_all() -> None:
    """Have what still goes on aside stop, and wait for it: a thread that is cut off in the middle of telling how far it
    is takes the program down."""
    end = time.monotonic() + PATIENCE
    for task in list(_running):
        task.stop()
    for held in _ends:
        if (finish := held()) is not None:
            finish()
    for task in list(_running):
        task.worker.join(max(end - time.monotonic(), 0.0))


def load_aside(module: str) -> None:
    """Load a large module on another thread, so that what needs it a moment later does not wait for it."""
    threading.Thread(target=importlib.import_module, args=(module,), daemon=True).start()


class BackgroundTask(QObject):
    """Runs ``act(progress)`` once on a thread of its own.

    On the thread this was made on, ``watch(says, share)`` is told how far it is, and at the end either
    ``done(result)`` or ``failed(sentence)`` is called; the sentence is empty when it was given up.
    """

    _told = Signal(str, float)
    _ended = Signal(bool, object)

    def __init__(
        self,
        act: Callable[[Progress], Any],
        watch: Callable[[str, float], None],
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        parent: QObject,
    ) -> None:
        super().__init__(parent)
        self.act, self.watch, self.done, self.failed = act, watch, done, failed
        self._stop = threading.Event()
        self.worker = threading.Thread(target=self._run, daemon=True)
        # Bound slots of this object, queued: what the worker sends is taken up on this object's own thread.
        self._told.connect(self._tell, Qt.ConnectionType.QueuedConnection)
        self._ended.connect(self._end, Qt.ConnectionType.QueuedConnection)

    def start(self) -> None:
        """Begin."""
        _running.add(self)
        self.worker.start()

    def stop(self) -> None:
        """Give up at the next word of progress."""
        self._stop.set()

    def _progress(self, says: str, share: float) -> None:
        if self._stop.is_set():
            raise Stopped
        self._told.emit(says, share)

    def _run(self) -> None:
        try:
            self._work()
        finally:
            _running.discard(self)

    def _work(self) -> None:
        try:
            result = self.act(self._progress)
        except Stopped:
            self._ended.emit(False, "")
        except Trouble as trouble:
            self._ended.emit(False, str(trouble))
        except OSError as error:
            file = error.filename or "A file"
            self._ended.emit(False, f"{file}: {error.strerror or error}; check the disk and the rights.")
        except Exception as error:  # noqa: BLE001 – whatever it is, nobody may wait for it for ever
            self._ended.emit(False, note(error))
        else:
            self._ended.emit(True, result)

    @Slot(str, float)
    def _tell(self, says: str, share: float) -> None:
        if not self._stop.is_set():
            self.watch(says, share)

    @Slot(bool, object)
    def _end(self, fine: bool, result: Any) -> None:
        (self.done if fine else self.failed)(result)
