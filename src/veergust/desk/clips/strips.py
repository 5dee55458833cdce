"""Contact strips: five poses of a clip in one picture, made on another thread and kept in a cache folder."""

from __future__ import annotations

import hashlib
import queue
import threading
import weakref
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from platformdirs import user_cache_path
from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter
from shiboken6 import isValid

from veergust.core.model import Clip
from veergust.core.motion import Array, Assets, Mesh, Roots, carried, ends, forward, motion_of, times
from veergust.desk.running.work import aside, before_the_end, mailbox
from veergust.desk.widgets.inked import draw_pose

POSES = 5
WIDE, HIGH = 176, 56
MOST_KEPT = 4000
Mark = tuple[object, ...]
"""What tells a strip of a clip from an older one."""


@dataclass(frozen=True, eq=False)
class Order:
    """A strip to make."""

    clip: Clip
    assets: Assets
    mesh: Mesh
    roots: Roots
    ink: QColor
    ghost: QColor
    ratio: float


def strip_poses(assets: Assets, clip: Clip, roots: Roots) -> Array | None:
    """Joint matrices ``[5, J, 4, 4]`` spread over the clip, each about its own body."""
    if motion_of(assets, clip) is None:
        return None
    start, end = ends(assets, clip)
    _, left = carried(assets, clip, times(start, end, POSES - 1, clip.reverse), roots)
    return forward(assets.skeleton, left.rotation, left.translation)


def paint_strip(mesh: Mesh, joints: Array, ink: QColor, ghost: QColor, ratio: float) -> QImage:
    """Five poses from left to right, the earlier ones as skins under the later."""
    image = QImage(round(WIDE * ratio), round(HIGH * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    # One scale for all clips of a figure, so that a crouch is seen to be low.
    tall = max(float(np.ptp(mesh.points[:, 1])) * 1.02, float(np.ptp(joints[:, :, 1, 3])) + 0.1, 1e-3)
    low = min(float(joints[:, :, 1, 3].min()), 0.0)
    scale = (HIGH - 4) / tall
    p = QPainter(image)
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.setPen(Qt.PenStyle.NoPen)
    for i, pose in enumerate(joints):
        p.save()
        p.translate(22 + i * (WIDE - 52) / (len(joints) - 1), HIGH - 2 + low * scale)
        colour = QColor(ink if i == len(joints) - 1 else ghost)
        colour.setAlphaF(0.45 + 0.5 * i / (len(joints) - 1))
        p.setBrush(colour)
        draw_pose(p, mesh, pose, scale, colour.alphaF())
        p.restore()
    p.end()
    return image


class StripMaker(QObject):
    """Makes strips as they are asked for, the last asked first; ``made`` tells which clip's is there."""

    made = Signal(str)

    def __init__(self, folder: Path | None = None, owner: QObject | None = None) -> None:
        super().__init__(owner)
        self.kept: dict[str, tuple[Mark, QImage]] = {}
        self._bench = _Bench(folder or user_cache_path("veergust") / "strips", weakref.WeakMethod(self._keep))
        self._thread: threading.Thread | None = None
        before_the_end(self.finish)
        self.destroyed.connect(self._bench.close)

    def strip(self, order: Order) -> QImage | None:
        """The strip of a clip when it is there; else it is ordered, and an older one shown meanwhile."""
        mark = (order.clip, id(order.assets), id(order.mesh), order.ink.rgba(), order.ghost.rgba(), order.ratio)
        kept = self.kept.get(order.clip.name)
        if kept is not None and kept[0] == mark:
            return kept[1]
        if self._bench.take(mark, order) and (self._thread is None or not self._thread.is_alive()):
            self._thread = aside(self._bench.work)
        return kept[1] if kept is not None else None

    def finish(self) -> None:
        """Let the thread end when it has nothing more to do, and wait for it."""
        if self._thread is not None and self._thread.is_alive():
            self._bench.close()
            self._thread.join(timeout=5.0)

    def _keep(self, name: str, mark: Mark, image: QImage) -> None:
        if isValid(self) and self._bench.asked.get(name) == mark:
            self.kept[name] = (mark, image)
            self.made.emit(name)


class _Bench:
    """Where the strips are made; all that the thread knows of. ``keep`` is called with each on the windows' thread."""

    def __init__(self, folder: Path, keep: weakref.WeakMethod[Callable[[str, Mark, QImage], None]]) -> None:
        self.folder, self.keep = folder, keep
        self.asked: dict[str, Mark] = {}
        self._orders: queue.LifoQueue[tuple[Mark, Order] | None] = queue.LifoQueue()
        self._digests: weakref.WeakKeyDictionary[Mesh, bytes] = weakref.WeakKeyDictionary()
        self._box = mailbox()

    def take(self, mark: Mark, order: Order) -> bool:
        """Take an order; whether it is a new one."""
        if self.asked.get(order.clip.name) == mark:
            return False
        self.asked[order.clip.name] = mark
        self._orders.put((mark, order))
        return True

    def close(self) -> None:
        """Make nothing more."""
        self._orders.put(None)

    def work(self) -> None:
        """Make what is ordered, until it is closed."""
        while (entry := self._orders.get()) is not None:
            mark, order = entry
            if self.asked.get(order.clip.name) != mark:
                continue
            joints = strip_poses(order.assets, order.clip, order.roots)
            if joints is not None:
                self._tell(order.clip.name, mark, self._from_cache(order, joints))

    def _tell(self, name: str, mark: Mark, image: QImage) -> None:
        keep = self.keep

        def tell() -> None:
            if (there := keep()) is not None:
                there(name, mark, image)

        self._box.post(tell)

    def _from_cache(self, order: Order, joints: Array) -> QImage:
        known = self._digests.get(order.mesh)
        if known is None:
            known = hashlib.sha256(order.mesh.points.tobytes() + order.mesh.faces.tobytes()).digest()
            self._digests[order.mesh] = known
        look = f"{order.ink.name()} {order.ghost.name()} {order.ratio} {WIDE}x{HIGH}"
        key = hashlib.sha256(known + np.round(joints, 4).astype(np.float32).tobytes() + look.encode()).hexdigest()
        path = self.folder / f"{key[:32]}.png"
        image = QImage(str(path)) if path.is_file() else QImage()
        if image.isNull():
            image = paint_strip(order.mesh, joints, order.ink, order.ghost, order.ratio)
            _store(path, lambda to: image.save(to))
        image.setDevicePixelRatio(order.ratio)
        return image


def _store(path: Path, save: Callable[[str], bool]) -> None:
    """Keep a picture; a cache that cannot be written is done without. The oldest go when there are very many."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        draft = path.with_name(f"draft-{threading.get_ident()}.png")
        if save(str(draft)):
            draft.replace(path)
        kept = list(path.parent.glob("[0-9a-f]*.png"))
        if len(kept) > MOST_KEPT:
            for old in sorted(kept, key=lambda p: p.stat().st_mtime)[: MOST_KEPT // 4]:
                old.unlink(missing_ok=True)
    except OSError:
        return
