"""What is sent to a colleague: a report of the actions, and the frames before one as a moving picture."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog

from veergust import core
from veergust.desk.document.document import Document
from veergust.desk.running.work import BackgroundTask
from veergust.desk.widgets.notice import Notice

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget as Base

    from veergust.core.files import Progress
    from veergust.core.play import CompiledProject
else:
    Base = object

REPORTS = "A page (*.html);;A plain table (*.txt);;A table of values (*.csv)"
PICTURES = "Moving picture (*.webp);;Moving picture (*.gif);;Moving picture (*.apng)"
MOST = 240
"""So many frames are in a moving picture at most; of more every other, or third, is."""
Act = Callable[["CompiledProject", "Progress"], bytes]


class SendingDoors(Base):
    """The part of the window that makes what is sent; it needs the window's document and notice."""

    document: Document
    notice: Notice
    sent: BackgroundTask | None = None

    if TYPE_CHECKING:

        @property
        def bench(self) -> str: ...

    def ask_report(self) -> None:
        """Ask where a report is to be written."""
        chosen, _ = QFileDialog.getSaveFileName(self, "Write a report", self._named("html"), REPORTS)
        if chosen:
            self.send_report(Path(chosen))

    def ask_picture_with_spans(self) -> None:
        """Ask where the frames before one, with their spans under them, are to be written."""
        if self.bench == "Clips":
            self.document.said.emit("A clip has no spans: choose an action on the Sheet.", True)
        else:
            self.ask_picture(spans=True)

    def ask_picture(self, *, spans: bool = False) -> None:
        """Ask where the frames before one are to be written, maybe with their ``spans`` under them."""
        if not self._frames():
            self.document.said.emit("There is no action or clip to draw yet.", True)
            return
        chosen, _ = QFileDialog.getSaveFileName(self, "Send as a moving picture", self._named("webp"), PICTURES)
        if chosen:
            self.send_picture(Path(chosen), spans=spans)

    def _named(self, ending: str) -> str:
        what = self.document.clip if self.bench == "Clips" else self.document.action
        name = self.document.project.name if ending == "html" else what
        folder = self.document.folder
        place = Path.home() if folder is None or self.document.is_untitled else folder.parent
        return str(place / f"{name}.{ending}")

    def send_report(self, out: Path) -> None:
        """Write a report of all actions: a page, or by the file's ending a plain table or one of values."""

        def act(build: CompiledProject, progress: Progress) -> bytes:
            from veergust.report.rows import as_csv, as_text, reports

            rows = reports(build)
            if out.suffix.lower() == ".csv":
                return as_csv(rows).encode()
            if out.suffix.lower() == ".txt":
                return as_text(rows).encode()
            from veergust.report.page import as_page

            names = [row.name for row in rows]
            return as_page(
                build, rows, lambda name: progress(f"Drawing {name}", names.index(name) / len(names))
            ).encode("utf-8", "replace")

        self._send(act, out)

    def send_picture(self, out: Path, *, spans: bool = False) -> None:
        """Write the frames before one as a moving picture: of the span that is selected, else of the whole action, and
        maybe ``spans`` under them; on Clips of the whole clip."""
        frames, clip = self._frames(), self.document.clip if self.bench == "Clips" else None
        action = self.document.action if clip is None else None

        def act(build: CompiledProject, progress: Progress) -> bytes:
            from veergust.report.frames import Wanted, moving_picture

            progress("Drawing", 0.1)
            return moving_picture(build, Wanted("", action, clip), frames, out.suffix, (480, 360), "day", spans=spans)

        self._send(act, out)

    def _frames(self) -> tuple[int, ...]:
        document, rate = self.document, self.document.project.settings.rate
        if self.bench == "Clips":
            clip = document.build.clip(document.clip)
            last = round(core.motion.seconds(document.build.assets, clip) * rate) + 1 if clip is not None else 0
            frames = range(last)
        else:
            compiled, chosen = document.compiled, document.selection
            span = core.edit.span_of(document.project, chosen) if chosen is not None else None
            frames = range(compiled.total if compiled is not None else 0)
            if compiled is not None and chosen is not None and chosen.section >= 0 and hasattr(span, "end"):
                first = compiled.start_of(chosen.section)
                frames = range(max(first + span.start, 0), min(first + span.end, compiled.total))  # type: ignore[union-attr]
        return tuple(frames[:: max(-(-len(frames) // MOST), 1)])

    def _send(self, act: Act, out: Path) -> None:
        if self.sent is not None:
            self.document.said.emit("Something is still being drawn; wait for it or give it up.", True)
            return
        # A book of its own: the window's is not looked into from two sides at once.
        project, assets = self.document.project, self.document.build.assets

        def run(progress: Progress) -> Path:
            data = act(core.play.CompiledProject(project, assets), progress)
            with core.files.whole_file(out) as target:
                target.write(data)
            return out

        def ended(says: str, bad: bool) -> None:
            self.sent = None
            self.notice.hide()
            if says:
                self.notice.say(says, bad)

        work = BackgroundTask(
            run,
            lambda says, share: self.notice.progress(f"{says} …", share, work.stop),
            lambda path: ended(f"Written: {path}", False),
            lambda says: ended(says, True),
            self,
        )
        self.sent = work
        work.start()
