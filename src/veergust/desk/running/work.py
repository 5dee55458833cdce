"""Long work on another thread, with words about how far it is, that can be given up.

A thread touches nothing of Qt's that may go while it works: a signal that is emitted on an object whose window is
being closed takes the program down. What it has to tell it posts, and that is done on the windows' thread, where who
it is for is there or is not.
"""

from __future__ import annotations

import importlib
import threading
import time
import weakref
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QCoreApplication, QObject, Qt, Signal, Slot
from shiboken6 import isValid

from veergust import core
from veergust.core.trouble import Trouble

if TYPE_CHECKING:
    from veergust.core.files import Progress

PATIENCE = 3.0
"""So long (s) the end of the program waits for what still goes on."""
Act = Callable[[], object]
_running: set[BackgroundTask] = set()
_ends: list[weakref.WeakMethod[Act]] = []


class Mailbox(QObject):
    """Where threads put what is to be done on the windows' thread; there is one, as long as the program runs."""

    _came = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        app = QCoreApplication.instance()
        if app is not None:
            self.moveToThread(app.thread())
        self._lock = threading.Lock()
        self._open = True
        self._came.connect(self._do, Qt.ConnectionType.QueuedConnection)

    def post(self, act: Act) -> None:
        """Have something done on the windows' thread, from any other; nothing more once it is shut."""
        with self._lock:
            if self._open:
                self._came.emit(act)

    def shut(self) -> None:
        """Take nothing more: the program ends."""
        with self._lock:
            self._open = False

    @Slot(object)
    def _do(self, act: Act) -> None:
        act()


_boxes: list[Mailbox] = []


def mailbox() -> Mailbox:
    """The mailbox of the program; to be asked for on the windows' thread, before a thread is begun that posts."""
    if not _boxes:
        _boxes.append(Mailbox())
    return _boxes[0]


def aside(act: Act, name: str | None = None) -> threading.Thread:
    """Run something on a thread of its own that the end of the program does not wait for; there is no other way here
    to make one."""
    thread = threading.Thread(target=act, name=name, daemon=True)
    thread.start()
    return thread


def before_the_end(finish: Act) -> None:
    """Have a method called before the program ends, while what it is of is still there: it waits for its thread."""
    _ends.append(weakref.WeakMethod(finish))


def end_all() -> None:
    """Have what still goes on aside stop, and wait for it."""
    end = time.monotonic() + PATIENCE
    for task in list(_running):
        task.stop()
    for held in _ends:
        if (finish := held()) is not None:
            finish()
    for task in list(_running):
        task.wait(max(end - time.monotonic(), 0.0))
    for box in _boxes:
        box.shut()
    _boxes.clear()


def load_aside(module: str) -> None:
    """Load a large module on another thread, so that what needs it a moment later does not wait for it."""
    aside(lambda: importlib.import_module(module))


class BackgroundTask:
    """Runs ``act(progress)`` once on a thread of its own.

    On the windows' thread ``watch(says, share)`` is told how far it is, and at the end either ``done(result)`` or
    ``failed(sentence)`` is called; the sentence is empty when it was given up. When its owner is gone by then, nobody
    is told.
    """

    def __init__(
        self,
        act: Callable[[Progress], Any],
        watch: Callable[[str, float], None],
        done: Callable[[Any], None],
        failed: Callable[[str], None],
        owner: QObject,
    ) -> None:
        self.act, self.watch, self.done, self.failed, self.owner = act, watch, done, failed, owner
        self._stop = threading.Event()
        self._worker: threading.Thread | None = None

    def start(self) -> None:
        """Begin."""
        _running.add(self)
        self._worker = aside(_Work(self).run)

    def stop(self) -> None:
        """Give up at the next word of progress."""
        self._stop.set()

    def wait(self, longest: float) -> None:
        """Wait until it is over, so many seconds at the most."""
        if self._worker is not None:
            self._worker.join(longest)

    @property
    def stopped(self) -> bool:
        """Whether it was given up."""
        return self._stop.is_set()

    def tell(self, says: str, share: float) -> None:
        """Say how far it is; nobody needs what is made for an owner that is gone."""
        if not isValid(self.owner):
            self.stop()
        elif not self.stopped:
            self.watch(says, share)

    def end(self, then: Callable[[BackgroundTask], None]) -> None:
        """Say how it ended. What the task knows goes here, and not on its thread: that may have had a widget to itself
        by now."""
        self.wait(PATIENCE)
        _running.discard(self)
        if isValid(self.owner):
            then(self)


class _Work:
    """What a task's thread has of it: no way to anything of Qt's but the mailbox."""

    def __init__(self, task: BackgroundTask) -> None:
        self._act: Callable[[Progress], Any] | None = task.act
        self._stop = task._stop
        self._task = weakref.ref(task)
        self._box = mailbox()

    def run(self) -> None:
        then = self._ended()
        task = self._task
        self._act = None

        def tell() -> None:
            if (there := task()) is not None:
                there.end(then)

        self._box.post(tell)

    def _ended(self) -> Callable[[BackgroundTask], None]:
        assert self._act is not None
        try:
            result = self._act(self._progress)
        except core.files.Stopped:
            says = ""
        except Trouble as trouble:
            says = str(trouble)
        except OSError as error:
            says = f"{error.filename or 'A file'}: {error.strerror or error}; check the disk and the rights."
        except Exception as error:  # noqa: BLE001 – whatever it is, nobody may wait for it for ever
            says = core.files.note(error)
        else:
            return lambda task: task.done(result)
        return lambda task: task.failed(says)

    def _progress(self, says: str, share: float) -> None:
        if self._stop.is_set():
            raise core.files.Stopped
        task = self._task

        def tell() -> None:
            if (there := task()) is not None:
                there.tell(says, share)

        self._box.post(tell)
