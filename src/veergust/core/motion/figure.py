"""A figure: a skeleton with the skinned mesh that is drawn on it, and the motions loaded for it."""

from __future__ import annotations

import contextlib
from collections.abc import Collection, Hashable
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from veergust.core.model import Project, SourceRig
from veergust.core.motion.drawn import DrawnSheet
from veergust.core.motion.quat import Array
from veergust.core.motion.sampling import Motion
from veergust.core.motion.skeleton import Skeleton
from veergust.core.motion.track import BodyTrack


@dataclass(frozen=True, eq=False, repr=False)
class Mesh:
    """Skinned triangles: ``points`` and ``normals`` ``[V, 3]``, four ``joints`` and ``weights`` ``[V, 4]``,
    ``faces`` ``[T, 3]``, and the inverse bind matrices ``[J, 4, 4]`` of the skeleton's joints.

    That of a figure that is drawn has no faces: its drawings, in ``sheets``, stand in their place, and the points are
    as far as they reach. ``picture`` is the joint that says which is shown."""

    points: NDArray[np.float32]
    normals: NDArray[np.float32]
    joints: NDArray[np.int32]
    weights: NDArray[np.float32]
    faces: NDArray[np.int32]
    inverse_bind: Array
    sheets: tuple[DrawnSheet | None, ...] = ()
    picture: int = -1


@dataclass(frozen=True, eq=False, repr=False)
class Assets:
    """What a project's files hold, loaded: the skeleton, its mesh if there is one, motions by (file, name), still
    meshes of props by file, the files whose skeleton is a foreign one, and by which mappings they were brought over.
    """

    skeleton: Skeleton
    mesh: Mesh | None = None
    motions: dict[tuple[str, str], Motion] = field(default_factory=dict)
    props: dict[str, Mesh] = field(default_factory=dict)
    foreign: frozenset[str] = frozenset()
    sources: tuple[SourceRig, ...] = ()
    tracks: dict[Hashable, BodyTrack] = field(default_factory=dict)
    """Tracks of the body that were worked out, by all that they depend on."""
    cleaned: dict[Hashable, Motion] = field(default_factory=dict)
    """Motions as they were cleaned, by file, animation and how."""
    sheets: dict[str, DrawnSheet] = field(default_factory=dict)
    """The sheets of a figure that is drawn, by file."""
    guests: dict[str, tuple[Project, Assets]] = field(default_factory=dict)
    """The projects that fighters on the stages are of beside their own, by folder, with what their files hold."""

    @cached_property
    def files(self) -> frozenset[str]:
        """The files that motions came from."""
        return frozenset(file for file, _ in self.motions)

    def without(self, files: Collection[str]) -> Assets:
        """The assets without what came from these files, so that they are read anew."""
        motions = {key: motion for key, motion in self.motions.items() if key[0] not in files}
        props = {file: mesh for file, mesh in self.props.items() if file not in files}
        sheets = {file: sheet for file, sheet in self.sheets.items() if file not in files}
        return replace(self, motions=motions, props=props, sheets=sheets, tracks={}, cleaned={})

    def motion(self, file: str, name: str) -> Motion | None:
        """The motion ``name`` of ``file``; with no name the file's first."""
        with contextlib.suppress(KeyError):
            return self.motions[file, name]
        return None if name else next((m for (f, _), m in self.motions.items() if f == file), None)


EMPTY = Assets(Skeleton((), (), np.zeros((0, 4)), np.zeros((0, 3))))
