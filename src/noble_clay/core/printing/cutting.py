"""Cutting a solid into parts by level planes, with pegs on one side of each cut and sockets on the other.

A round or square peg stands on the lower side, square to the cut, and is pushed in; a dovetail is a rail along the cut,
wider at its top, and is slid in. Sockets are larger by the clearance on every side, along the normal of each face. For
a magnet there is a pocket on both sides, so large that it goes in with the clearance.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import Literal

import numpy as np
from manifold3d import CrossSection, JoinType, Manifold

from noble_clay.core.errors import MeshError
from noble_clay.core.kernel.booleans import boolean
from noble_clay.core.kernel.plain import mesh_of
from noble_clay.core.kernel.solid import Solid
from noble_clay.core.measure.walls import spread
from noble_clay.core.mesh.affine import inverse
from noble_clay.core.mesh.distance import MeshDistance
from noble_clay.core.mesh.mass import normals
from noble_clay.core.mesh.mesh import Floats, Mesh
from noble_clay.core.piece.models import AXES, Axis
from noble_clay.core.printing.areas import thickest
from noble_clay.core.printing.dovetails import TOUCH_MM, WALL_MM, Room, longer_way, rail_along
from noble_clay.core.printing.labels import engraved, letter

PegKind = Literal["none", "round", "square", "dovetail", "magnet"]
PEG = "peg"
"""What the faces of pegs are named where a part's id would be."""

RADII_MM = 1.0, 4.0
"""A peg is as thick as there is room for, between these radii."""

THINNER = 0.7
FOOT_MM = 0.5
SIDES = 48

MAGNET_MM = 6.0, 2.0
"""A magnet's diameter and height (a common size); where there is less room, a smaller one of at least half of it."""

APART_STEPS = 0.15, 0.4, 1.0, 2.5, 6.0
"""mm that parts are drawn from each other by, to see whether they go together."""

LEVEL = np.array([[0, 1, 0, 0], [0, 0, 1, 0], [1, 0, 0, 0]], dtype=float)
"""(3, 4): turns x upright; twice over it does so with y."""


@dataclass(frozen=True)
class Plane:
    """Square to an axis, `at` mm along it."""

    axis: Axis
    at: float

    @property
    def upright(self) -> Floats:
        """(3, 4): turns what is cut so that the plane is level."""
        once, twice = LEVEL, np.column_stack([LEVEL[:, :3] @ LEVEL[:, :3], np.zeros(3)])
        return {"x": once, "y": twice, "z": np.eye(3, 4)}[self.axis]

    def level(self, axis: Axis) -> int:
        """Which axis another one lies along once the plane is level."""
        return int(np.argmax(np.abs(self.upright[:, "xyz".index(axis)])))


def plane_of(text: str) -> Plane:
    """Of words such as `z=40`. Raises MeshError."""
    axis, _, number = text.partition("=")
    try:
        at = float(number)
    except ValueError:
        at = math.nan
    if axis not in ("x", "y", "z") or not math.isfinite(at):
        raise MeshError(f'"{text}" is no plane: say x=MM, y=MM or z=MM, for example z=40')
    return Plane(axis, at)  # type: ignore[arg-type]  # it is one of them


@dataclass(frozen=True, eq=False)
class CutPart:
    """One of the parts, where it stood; so many pegs stand on it, and so many sockets are in it."""

    solid: Solid
    pegs: int = 0
    sockets: int = 0


@dataclass(frozen=True, eq=False)
class _Piece:
    """What is left of the whole in a room, without pegs (plain), and with them (part)."""

    plain: Solid
    room: Room
    part: CutPart


@dataclass(frozen=True)
class Fit:
    """How two parts go together. gaps: mm, the least and the greatest between pegs and what they go into. slides:
    whether they come apart the way in which they are joined, and so go together.
    """

    gaps: tuple[float, float]
    slides: bool


@dataclass(frozen=True, eq=False)
class Cut:
    """parts: as they are printed. fits: of every two that are joined by pegs."""

    parts: list[CutPart]
    fits: list[Fit]

    @property
    def least_gap(self) -> float | None:
        return min((fit.gaps[0] for fit in self.fits), default=None)

    @property
    def greatest_gap(self) -> float | None:
        return max((fit.gaps[1] for fit in self.fits), default=None)


def cut(
    solid: Solid, planes: Sequence[Plane], peg: PegKind = "round", clearance: float = 0.2, labels: bool = False
) -> Cut:
    """The parts of a solid, with pegs where there is room; labels: and a letter for every joint, on both its faces.

    Raises MeshError for a plane that cuts nothing.
    """
    if not 0 <= clearance <= 5:
        raise MeshError(f"clearance: between 0 and 5 mm, not {clearance:g}")
    halves = [(solid, Room.of(solid.bounds + [[-1.0], [1.0]]))]
    for plane in planes:
        found = [half for each in halves for half in _halves(*each, plane)]
        if len(found) == len(halves):
            raise MeshError(_nothing_cut_off(solid, plane))
        halves = found
    # Pegs come once all is cut, so that no cut goes through one.
    pieces = [_Piece(plain, room, CutPart(plain)) for plain, room in halves]
    meetings = [(plane, low, high) for plane in planes for low, high in _meeting(pieces, plane)]
    fits: list[Fit] = []
    upright = meetings
    if peg == "dovetail":
        along = _rails_along({plane.axis for plane in planes})
        # Square to the rails of other cuts a part comes off along them: an upright peg does not stand in its way.
        upright, peg = [m for m in meetings if m[0].axis == along], "round"
        for plane, low, high in meetings:
            if plane.axis != along:
                pieces[low], pieces[high], fit = _railed(solid, pieces[low], pieces[high], plane, clearance, along)
                fits += fit
    for plane, low, high in upright:
        pieces[low], pieces[high], fit = _plugged(pieces[low], pieces[high], plane, peg, clearance)
        fits += fit
    parts = [piece.part for piece in pieces]
    joints = 0
    for plane, low, high in meetings if labels else []:
        marked = _marked(parts[low], parts[high], plane, letter(joints))
        if marked is not None:
            parts[low], parts[high] = marked
            joints += 1
    return Cut(parts, fits)


def _nothing_cut_off(solid: Solid, plane: Plane) -> str:
    """Why a plane cuts nothing off."""
    if _goes_through(plane, solid):
        return f"{plane.axis}={plane.at:g} cuts nothing off: another plane cuts there already"
    low, high = solid.bounds[:, "xyz".index(plane.axis)]
    reach = f"along {plane.axis} this reaches from {low:.6g} to {high:.6g} mm"
    return f"{plane.axis}={plane.at:g} cuts nothing off: {reach}"


def _goes_through(plane: Plane, solid: Solid) -> bool:
    """Whether a plane leaves something of a solid's box on either side."""
    low, high = solid.bounds[:, "xyz".index(plane.axis)]
    return bool(low + TOUCH_MM < plane.at < high - TOUCH_MM)


def _meeting(pieces: list[_Piece], plane: Plane) -> Iterator[tuple[int, int]]:
    """Which of the pieces end at a plane from below, with those that do from above."""
    ends = np.array([piece.plain.bounds[:, "xyz".index(plane.axis)] for piece in pieces])
    above, below = (np.flatnonzero(np.abs(side - plane.at) < TOUCH_MM).tolist() for side in ends.T)
    return product(below, above)


def _railed(
    whole: Solid, below: _Piece, above: _Piece, plane: Plane, clearance: float, along: Axis | None
) -> tuple[_Piece, _Piece, list[Fit]]:
    """Both sides of a cut with rails and grooves, and how these fit. along: the axis that rails run along; None: the
    longer way of the largest ground.
    """
    back = inverse(plane.upright)
    lower, upper = (piece.plain.manifold.transform(plane.upright) for piece in (below, above))
    box = np.sort(above.room.box @ plane.upright[:, :3].T, axis=0)
    grounds = _grounds(lower, upper, plane.at)
    axis = plane.level(along) if along else longer_way(max(grounds, key=CrossSection.area, default=CrossSection()))
    shapes: list[Mesh] = []
    for area in grounds:
        rail = rail_along(area, axis, plane.at, upper, box, clearance)
        if rail is None:
            continue
        up, hole = (m.transform(back) for m in (rail.up, rail.hole))
        rooms = below.room.with_rail(up), above.room.with_groove(hole)
        low, high = (room.part(whole) for room in rooms)
        if low.bodies != below.part.solid.bodies or high.bodies != above.part.solid.bodies:
            continue  # it would hang on nothing, or cut something off
        below = _Piece(below.plain, rooms[0], CutPart(low, below.part.pegs + 1, below.part.sockets))
        above = _Piece(above.plain, rooms[1], CutPart(high, above.part.pegs, above.part.sockets + 1))
        shapes.append(mesh_of(whole.manifold ^ up))
    way = back[:, axis]
    after = below.part.solid, above.part.solid
    return below, above, [Fit(_gaps(shape, plane, after[1], way), _slides(*after, way)) for shape in shapes]


def _rails_along(cut: set[Axis]) -> Axis | None:
    """Which way all rails run where cuts square to several axes meet, so that a part slides off all that it hangs on:
    along the axis that none is square to. None where each may run as it likes.
    """
    return next((axis for axis in AXES if axis not in cut), AXES[-1]) if len(cut) > 1 else None


def _marked(below: CutPart, above: CutPart, plane: Plane, word: str) -> tuple[CutPart, CutPart] | None:
    """Both sides of a cut with a word engraved; None where there is no room, or they do not meet."""
    lower, upper = (p.solid.manifold.transform(plane.upright) for p in (below, above))
    taken = engraved(lower, upper, plane.at, word)
    if taken is None:
        return None
    back = inverse(plane.upright)
    found = []
    for part, rooms in zip((below, above), taken, strict=True):
        room = Solid.from_mesh(mesh_of(rooms.transform(back)), PEG)
        found.append(replace(part, solid=boolean("difference", [part.solid, room])))
    low, high = found
    if (low.solid.bodies, high.solid.bodies) != (below.solid.bodies, above.solid.bodies):
        return None
    return low, high


def _halves(solid: Solid, room: Room, plane: Plane) -> list[tuple[Solid, Room]]:
    """Below and above, each with its room; or the solid itself where there is nothing on one side."""
    if not _goes_through(plane, solid):
        return [(solid, room)]
    halves = []
    for side in (1, 0):
        box = room.box.copy()
        box[side, "xyz".index(plane.axis)] = plane.at
        half = Room.of(box)
        halves.append((half.part(solid), half))
    return [half for half in halves if not half[0].empty]


def _plugged(
    below: _Piece, above: _Piece, plane: Plane, peg: PegKind, clearance: float
) -> tuple[_Piece, _Piece, list[Fit]]:
    """Both sides of a cut with pegs and sockets, and how these fit."""
    low, high = below.part.solid, above.part.solid
    back = inverse(plane.upright)
    pegs: list[Mesh] = []
    for joint in _joints(below.plain, high, plane, peg, clearance):
        piece, room = (Solid.from_mesh(mesh_of(m.transform(back)), PEG) for m in (joint.up, joint.hole))
        # A magnet's pocket is in both sides; of a peg one side has it, the other its socket.
        with_peg = boolean("difference" if peg == "magnet" else "union", [low, piece])
        with_hole = boolean("difference", [high, room])
        if with_peg.bodies != low.bodies or with_hole.bodies != high.bodies:
            continue  # it would hang on nothing, or cut something off
        low, high = with_peg, with_hole
        pegs.append(piece.mesh_only())
    standing, sunk = (0, len(pegs)) if peg == "magnet" else (len(pegs), 0)
    first = CutPart(low, below.part.pegs + standing, below.part.sockets + sunk)
    second = CutPart(high, above.part.pegs, above.part.sockets + len(pegs))
    fits = [Fit(_gaps(shape, plane, high), _slides(low, high, back[:, 2])) for shape in pegs[:standing]]
    return replace(below, part=first), replace(above, part=second), fits


def _gaps(peg: Mesh, plane: Plane, above: Solid, ends: Floats | None = None) -> tuple[float, float]:
    """mm, least and greatest, between what of a peg stands above its cut, and the side that it goes into. ends: a way
    along which it is open, where nothing stands against it.
    """
    samples = spread(peg, 0.5, 20_000)
    counts = samples.points[:, "xyz".index(plane.axis)] > plane.at + TOUCH_MM
    if ends is not None:
        counts &= np.abs(normals(peg)[samples.triangle] @ ends) < 0.9
    far = MeshDistance(above.mesh_only()).unsigned_distance(samples.points[counts])[0]
    return float(far.min()), float(far.max())


def _slides(below: Solid, above: Solid, way: Floats) -> bool:
    """Whether the part above comes off along a unit vector without meeting the other."""
    low, high = below.manifold, above.manifold
    return all((high.translate(way * far) ^ low).volume() < TOUCH_MM for far in APART_STEPS)


@dataclass(frozen=True, eq=False)
class _Joint:
    """In the frame in which the plane is level. up: added to the lower side, or for a magnet taken from it; hole: taken
    from the upper.
    """

    up: Manifold
    hole: Manifold


def _grounds(lower: Manifold, upper: Manifold, at: float) -> list[CrossSection]:
    """The areas that two sides of a level cut share."""
    shared = lower.slice(at - TOUCH_MM) ^ upper.slice(at + TOUCH_MM)
    # Two halves that have no ground in common are told as one area of nothing.
    return [area for area in shared.decompose() if not area.is_empty()]


def _joints(below: Solid, above: Solid, plane: Plane, peg: PegKind, clearance: float) -> list[_Joint]:
    """Pegs with their sockets."""
    if peg == "none":
        return []
    found = []
    lower, upper = (s.manifold.transform(plane.upright) for s in (below, above))
    for area in _grounds(lower, upper, plane.at):
        if peg == "magnet":
            found += _pockets(area, plane.at, lower, upper, clearance)
            continue
        radius = min(0.5 * (thickest(area) - WALL_MM), RADII_MM[1])
        while radius >= RADII_MM[0]:
            pegs = _pegs(area, plane.at, upper, peg, radius, clearance)
            found += pegs
            if pegs:
                break
            radius *= THINNER  # what lies above may be too thin for so thick a peg
    return found


def _pegs(
    area: CrossSection, at: float, upper: Manifold, peg: PegKind, radius: float, clearance: float
) -> list[_Joint]:
    """Upright pegs of one thickness, each as high as there is room for."""
    found = []
    for x, y in _spots(area, radius):
        for height in (2.5 * radius, 1.5 * radius, radius):
            up, hole = (_upright(peg, radius, height, more).translate((x, y, at)) for more in (0, clearance))
            around = _upright(peg, radius, height, clearance + 0.75 * WALL_MM, foot=0.0).translate((x, y, at))
            if (around - upper).volume() < 0.02 * around.volume():
                found.append(_Joint(up, hole))
                break
    return found


def _pockets(area: CrossSection, at: float, lower: Manifold, upper: Manifold, clearance: float) -> list[_Joint]:
    """Two rounds, half of the magnet's height below the cut and half above."""
    radius = min(thickest(area) - WALL_MM - clearance, MAGNET_MM[0] / 2)
    if radius < MAGNET_MM[0] / 4:
        return []
    high = MAGNET_MM[1] / 2 + clearance
    found = []
    for x, y in _spots(area, radius + clearance):
        room = Manifold.cylinder(2 * high, radius + clearance, circular_segments=SIDES).translate((x, y, at - high))
        around = Manifold.cylinder(2 * (high + WALL_MM), radius + clearance + WALL_MM, circular_segments=SIDES)
        if (around.translate((x, y, at - high - WALL_MM)) - (lower + upper)).volume() < 0.02 * around.volume():
            found.append(_Joint(room, room))
    return found


def _spots(area: CrossSection, radius: float) -> list[tuple[float, float]]:
    """Two places for pegs as far apart as there is room, so that nothing turns; or one in the middle."""
    room = area.offset(-(radius + WALL_MM), JoinType.Round)
    corners = [np.array(ring) for ring in room.to_polygons()]
    if not corners:
        return []
    points = np.concatenate(corners)
    first = points[int(np.argmax(np.linalg.norm(points - points.mean(axis=0), axis=1)))]
    second = points[int(np.argmax(np.linalg.norm(points - first, axis=1)))]
    if np.linalg.norm(second - first) > 3 * radius:
        return [(float(first[0]), float(first[1])), (float(second[0]), float(second[1]))]
    middle = points.mean(axis=0)
    return [(float(middle[0]), float(middle[1]))]


def _upright(peg: PegKind, radius: float, height: float, more: float, foot: float = FOOT_MM) -> Manifold:
    """A peg on z = 0, its foot sunk in; or, larger by `more` mm on every side, its socket, which begins in the air: so
    that no face of either lies in the plane.
    """
    if peg == "square":
        side = 2 * (0.8 * radius + more)
        shape = Manifold.cube((side, side, height + more + foot), True)
        return shape.translate((0, 0, (height + more - foot) / 2))
    # The flat sides are `more` apart, not the corners.
    reach = radius + more / math.cos(math.pi / SIDES)
    return Manifold.cylinder(height + more + foot, reach, reach, SIDES).translate((0, 0, -foot))
