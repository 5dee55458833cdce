"""From where a scene is seen."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from veergust.core.motion import Array


@dataclass(frozen=True)
class Camera:
    """An orbit about ``target`` (m): ``yaw`` about +Y and ``pitch`` down (degrees), ``distance`` away (m).

    Yaw 0 looks along −Z, so that +X is on the right; ``lens`` is the vertical field of view (degrees). One that is
    ``flat`` sees so many metres from top to bottom, however far away they are (0: as eyes see).
    """

    target: tuple[float, float, float] = (0.3, 0.85, 0.0)
    yaw: float = 0.0
    pitch: float = 8.0
    distance: float = 5.0
    lens: float = 32.0
    flat: float = 0.0

    @staticmethod
    def framing(points: Array, aspect: float, yaw: float = -12.0) -> Camera:
        """A still camera that sees all of ``points`` ``[N, 3]``, with a little room around, at ``aspect``."""
        low, high = points.min(axis=0), points.max(axis=0)
        middle = (low + high) / 2.0
        camera = Camera(target=(float(middle[0]), float(middle[1]), float(middle[2])), yaw=yaw)
        seen = (points - middle) @ camera.axes.T
        tall = np.tan(np.radians(camera.lens) / 2.0)
        need = np.maximum(np.abs(seen[:, 1]) / tall, np.abs(seen[:, 0]) / (tall * aspect)) + seen[:, 2]
        return replace(camera, distance=max(float(need.max(initial=0.0)) * 1.08 + 0.35, 1.5))

    def orbit(self, yaw: float, pitch: float) -> Camera:
        """Turned by degrees; never past straight down or from below the floor."""
        return replace(self, yaw=self.yaw + yaw, pitch=min(max(self.pitch + pitch, -10.0), 89.0))

    def zoom(self, factor: float) -> Camera:
        """Nearer (factor under 1) or farther."""
        return replace(self, distance=min(max(self.distance * factor, 0.8), 40.0))

    def pan(self, right: float, up: float) -> Camera:
        """The target moved in the picture's plane (m)."""
        move = self.axes[0] * right + self.axes[1] * up
        x, y, z = (float(v) for v in np.array(self.target) + move)
        return replace(self, target=(x, y, z))

    @cached_property
    def axes(self) -> Array:
        """Right, up and back of the picture as rows ``[3, 3]``."""
        a, b = np.radians(self.yaw), np.radians(self.pitch)
        back = np.array([np.sin(a) * np.cos(b), np.sin(b), np.cos(a) * np.cos(b)])
        right = np.array([np.cos(a), 0.0, -np.sin(a)])
        return np.stack([right, np.cross(back, right), back])

    @cached_property
    def eye(self) -> Array:
        """Where the camera is."""
        return np.asarray(np.array(self.target) + self.axes[2] * self.distance)

    def view(self) -> Array:
        """World to camera ``[4, 4]``."""
        return self._view

    @cached_property
    def _view(self) -> Array:
        out = np.eye(4)
        out[:3, :3] = self.axes
        out[:3, 3] = -self.axes @ self.eye
        return out

    def projection(self, aspect: float) -> Array:
        """Camera to clip space ``[4, 4]``, as OpenGL takes it."""
        near, far = 0.05, 200.0
        if self.flat > 0.0:
            far = 2.0 * self.distance
            return np.array(
                [
                    [2.0 / (self.flat * aspect), 0.0, 0.0, 0.0],
                    [0.0, 2.0 / self.flat, 0.0, 0.0],
                    [0.0, 0.0, 2.0 / (near - far), (far + near) / (near - far)],
                    [0.0, 0.0, 0.0, 1.0],
                ]
            )
        f = 1.0 / np.tan(np.radians(self.lens) / 2)
        out = np.zeros((4, 4))
        out[0, 0], out[1, 1] = f / aspect, f
        out[2, 2], out[2, 3] = (far + near) / (near - far), 2 * far * near / (near - far)
        out[3, 2] = -1.0
        return out

    def in_plane(self, x: float, y: float, width: float, height: float, point: Array) -> Array:
        """The world point ``[3]`` at a pixel, in the plane through ``point`` that is parallel to the picture."""
        eye = self._view[:3, :3] @ point + self._view[:3, 3]
        f = height / 2 / np.tan(np.radians(self.lens) / 2)
        deep = -min(float(eye[2]), -0.05)
        there = np.array([(x - width / 2) * deep / f, (height / 2 - y) * deep / f, -deep])
        return np.asarray(self.axes.T @ (there - self._view[:3, 3]))

    def on_picture(self, point: Array, width: float, height: float) -> tuple[float, float, float]:
        """Pixel place of a world point and how many pixels a metre has there (0 when behind the camera)."""
        places, scales = self.on_pictures(np.asarray(point)[None], width, height)
        return float(places[0, 0]), float(places[0, 1]), float(scales[0])

    def on_pictures(self, points: Array, width: float, height: float) -> tuple[Array, Array]:
        """Pixel places ``[N, 2]`` of world points ``[N, 3]`` and pixels a metre ``[N]``, 0 behind the camera."""
        eye = points @ self._view[:3, :3].T + self._view[:3, 3]
        seen = eye[:, 2] <= -0.05
        near = height / self.flat if self.flat > 0.0 else 0.0
        lens = height / 2 / np.tan(np.radians(self.lens) / 2) / -np.minimum(eye[:, 2], -0.05)
        scale = np.where(seen, near or lens, 0.0)
        centre = np.where(seen[:, None], np.array([width / 2, height / 2]), 0.0)
        return centre + eye[:, :2] * np.array([1.0, -1.0]) * scale[:, None], scale
