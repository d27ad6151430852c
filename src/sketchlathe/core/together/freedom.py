"""What a placed body may still do, said in words: turn about an axis, slide along a direction or on a plane."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..frames import Triple
from .grips import Pose, triple
from .placing import System
from .relations import Relation

_RANK = 1e-7
_NAMED = (((1.0, 0.0, 0.0), "x"), ((0.0, 1.0, 0.0), "y"), ((0.0, 0.0, 1.0), "z"))


@dataclass(frozen=True)
class Freedom:
    """How many motions are left to a body, of them turns and slides; ``axis`` (point, direction) it turns about and
    ``slide`` it slides along, where there is just one of each.
    """

    turning: int
    sliding: int
    axis: tuple[Triple, Triple] | None = None
    slide: Triple | None = None
    normal: Triple | None = None  # of the plane it slides on

    @property
    def count(self) -> int:
        """How many."""
        return self.turning + self.sliding

    def without(self, turn: bool, slide: bool) -> Freedom:
        """What is left where its one turn or its one slide has been given a number."""
        return Freedom(
            0 if turn and self.axis else self.turning, 0 if slide and self.slide else self.sliding,
            None if turn else self.axis, None if slide else self.slide,
        )  # fmt: skip

    @property
    def said(self) -> str:
        """In words, after the name of what it is about: "may still turn about an axis (z)";
        "held" if nothing is left.
        """
        if not self.count:
            return "held"
        if self.turning == 3 and self.sliding == 3:
            return "may move freely"
        along = f"slide along {named(self.slide)}" if self.slide and named(self.slide) else "slide along a line"
        slides = {0: "", 1: along, 2: "slide on a plane", 3: "be shifted freely"}[self.sliding]
        about = f" ({named(self.axis[1])})" if self.axis and named(self.axis[1]) else ""
        turns = {0: "", 1: f"turn about an axis{about}", 2: "turn about two axes", 3: "turn about a point"}[
            self.turning
        ]
        return f"may still {' and '.join(filter(None, (turns, slides)))}"


def freedoms(
    relations: Sequence[Relation], poses: Sequence[Pose], moving: Sequence[bool] | None = None
) -> list[Freedom]:
    """What each body may still do where the relations hold; ``relations`` as ``place`` gives them back."""
    system = System(relations, poses, moving)
    null = null_space(system, poses)
    out = []
    for i, pose in enumerate(poses):
        twists = null[6 * i : 6 * i + 6].copy()
        twists[3:] *= system.size
        out.append(_freedom(twists, pose.point(system.middles[i]), system.size))
    return out


def null_space(system: System, poses: Sequence[Pose]) -> np.ndarray:
    """The motions (6 n, k) that leave every equation as it is, orthonormal; of bodies that stand none."""
    still = np.repeat(~system.moving[:-1], 6)
    held = np.eye(6 * system.count)[still]
    jacobian = system.jacobian(poses)
    stacked = np.vstack([jacobian, held]) if len(jacobian) else held
    if not len(stacked):
        return np.eye(6 * system.count)
    _, values, right = np.linalg.svd(stacked)
    rank = int((values > _RANK * max(1.0, float(values.max(initial=0)))).sum())
    return np.asarray(right[rank:].T)


def _freedom(twists: np.ndarray, middle: np.ndarray, size: float) -> Freedom:
    """Of motions (6, k), turns over shifts about ``middle``, which ones are a body's own."""
    scaled = twists.copy()
    scaled[3:] /= size
    left, values, _ = np.linalg.svd(scaled, full_matrices=False)
    own = left[:, values > 1e-6]
    count = own.shape[1]
    if count == 0:
        return Freedom(0, 0)
    # shifts alone are the combinations whose turn is nought
    _, turn_values, turn_right = np.linalg.svd(own[:3])
    turning = int((turn_values > 1e-6).sum())
    shifts = own[3:] @ turn_right[turning:].T
    sliding = shifts.shape[1]
    slide = triple(_handsome(shifts[:, 0])) if sliding == 1 else None
    axis = None
    if turning == 1:
        turn, shift = own[:3] @ turn_right[0], (own[3:] @ turn_right[0]) * size
        long = float(np.linalg.norm(turn))
        way = _handsome(turn / long)
        # the axis of a screw motion lies where its shift is along it (Poinsot); what slides freely does not count
        if sliding:
            basis = np.linalg.qr(shifts)[0]
            shift = shift - basis @ (basis.T @ shift)
        axis = (triple(middle + np.cross(turn, shift) / long**2), triple(way))
    normal = triple(_handsome(np.cross(shifts[:, 0], shifts[:, 1]))) if sliding == 2 else None
    return Freedom(turning, sliding, axis, slide, normal)


def _handsome(way: np.ndarray) -> np.ndarray:
    """A direction at length one, pointing where its largest part is positive."""
    way = way / np.linalg.norm(way)
    return way if way[int(np.argmax(np.abs(way) > 0.999 * np.abs(way).max()))] > 0 else -way


def named(way: Triple) -> str:
    """A direction by the axis of the origin it is parallel to; empty for others."""
    return next((name for axis, name in _NAMED if abs(np.dot(axis, way)) > 1 - 1e-9), "")
