"""What a drawing holds: lines and arcs on layers, chained into outlines, of which some lie within others."""

import cmath
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ..cancellation import CancellationToken

MM_IN = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
"""Millimetres in one unit."""


FARTHEST = 1e8
"""Places beyond this (in the drawing's unit) are no places of a drawing."""


@dataclass(frozen=True)
class DrawnPiece:
    """A straight line, or an arc about a center, counter-clockwise or clockwise; of a full circle start and end are one
    place."""

    start: complex
    end: complex
    center: complex | None = None
    ccw: bool = True

    def turned(self) -> "DrawnPiece":
        """The other way round."""
        return DrawnPiece(self.end, self.start, self.center, not self.ccw)

    def scaled(self, by: float) -> "DrawnPiece":
        """In another unit."""
        return DrawnPiece(self.start * by, self.end * by, None if self.center is None else self.center * by, self.ccw)

    def moved(self, by: complex) -> "DrawnPiece":
        """Elsewhere."""
        return DrawnPiece(self.start + by, self.end + by, None if self.center is None else self.center + by, self.ccw)

    @property
    def sound(self) -> bool:
        """Whether its numbers are ones of a drawing."""
        spots = [self.start, self.end, *([] if self.center is None else [self.center])]
        return all(cmath.isfinite(z) and abs(z) < FARTHEST for z in spots)

    @property
    def sweep(self) -> float:
        """The signed angle of an arc (rad), a full turn where it ends where it starts."""
        if self.center is None:
            return 0.0
        turn = cmath.phase((self.end - self.center) / (self.start - self.center)) if self.start != self.center else 0.0
        turn %= math.tau
        if turn < 1e-12 or math.tau - turn < 1e-12:
            turn = math.tau if abs(self.end - self.start) < 1e-9 * abs(self.start - self.center) else 0.0
        return turn if self.ccw else (turn - math.tau if turn < math.tau else -math.tau)


@dataclass(frozen=True)
class Outline:
    """A closed chain of pieces on a layer. `cuts` are the outlines within it that take away."""

    layer: str
    pieces: tuple[DrawnPiece, ...]
    cuts: tuple["Outline", ...] = ()

    @property
    def area(self) -> float:
        """What it encloses, without its cuts; positive counter-clockwise."""
        total = 0.0
        for piece in self.pieces:
            total += (piece.start.conjugate() * piece.end).imag / 2
            if piece.center is not None:
                radius = abs(piece.start - piece.center)
                total += radius * radius / 2 * (piece.sweep - math.sin(piece.sweep))
        return total

    @property
    def circle(self) -> tuple[complex, float] | None:
        """Center and radius where it is a full circle."""
        first = self.pieces[0].center
        if first is None:
            return None
        radius = abs(self.pieces[0].start - first)
        whole = abs(sum(piece.sweep for piece in self.pieces))
        alike = all(piece.center is not None and abs(piece.center - first) <= 1e-9 * radius for piece in self.pieces)
        return (first, radius) if alike and abs(whole - math.tau) < 1e-6 else None

    def turned(self) -> "Outline":
        """The other way round."""
        return replace(self, pieces=tuple(piece.turned() for piece in reversed(self.pieces)))


@dataclass(frozen=True)
class Drawing:
    """The pieces of a drawing by layer, the unit that the file says (empty where it says none), and what there is to
    tell of reading it."""

    layers: dict[str, list[DrawnPiece]]
    unit: str = ""
    report: list[str] = field(default_factory=list)

    @property
    def contents(self) -> "Contents":
        """What there is to choose from."""
        counts = {layer: len(pieces) for layer, pieces in self.layers.items()}
        return Contents(counts, self.unit, self.reach, tuple(self.report))

    @property
    def reach(self) -> float:
        """The largest extent, in the drawing's unit."""
        ends = [z for pieces in self.layers.values() for piece in pieces for z in (piece.start, piece.end)]
        if not ends:
            return 0.0
        spots = np.array(ends)
        return float(max(np.ptp(spots.real), np.ptp(spots.imag)))


@dataclass(frozen=True)
class Contents:
    """How many pieces each layer of a drawing holds, its unit (empty where the file says none), its largest extent in
    that, and what there is to tell of reading it."""

    layers: Mapping[str, int]
    unit: str
    reach: float
    report: tuple[str, ...]


@dataclass(frozen=True)
class Chosen:
    """What of a drawing is to become parts: by what its numbers are multiplied, the gap that is healed (in the
    drawing's unit), the layers whose outlines become parts, and those that cut what lies around them."""

    scale: float
    gap: float
    parts: tuple[str, ...]
    cuts: tuple[str, ...] = ()


def outlined(
    drawing: Drawing, chosen: Chosen, work: CancellationToken | None = None
) -> tuple[list[Outline], list[str]]:
    """The outlines of what is chosen, in the unit that is wanted, and what there is to tell of them. Layers that the
    drawing has not are none. What lies on another layer lies before or behind, and is no cut."""
    work = work or CancellationToken()
    parts: list[Outline] = []
    cuts: list[Outline] = []
    remarks: list[str] = []
    for layer in drawing.layers:
        if layer not in (*chosen.parts, *chosen.cuts):
            continue
        pieces = [piece.scaled(chosen.scale) for piece in drawing.layers[layer]]
        found, report = chained(layer, pieces, chosen.gap * chosen.scale, work)
        remarks += [f"{layer}: {line}" for line in report]
        if layer in chosen.parts:
            parts += nested(found, work)
        else:
            cuts += found
    return shared_cuts(parts, cuts, work), remarks


def chained(
    layer: str, pieces: Sequence[DrawnPiece], tolerance: float, work: CancellationToken | None = None
) -> tuple[list[Outline], list[str]]:
    """Pieces chained end to end into closed outlines; gaps up to a tolerance are healed, by moving ends of lines or by
    a short line where an arc ends. Also what there is to tell: what was healed, what stays open.

    >>> square = [DrawnPiece(0j, 1 + 0j), DrawnPiece(1 + 1j, 1 + 0j), DrawnPiece(1 + 1j, 1j), DrawnPiece(1j, 0j)]
    >>> len(chained("", square, 1e-6)[0][0].pieces)
    4
    """
    from scipy.spatial import cKDTree  # takes long to load, and is wanted here only

    def full(piece: DrawnPiece) -> bool:
        return piece.center is not None and abs(piece.end - piece.start) <= 1e-9 and piece.sweep != 0

    rest = [piece for piece in pieces if not full(piece) and (piece.center is not None or piece.start != piece.end)]
    outlines = [Outline(layer, (piece,)) for piece in pieces if full(piece)]
    report: list[str] = []
    open_, healed = 0, 0
    ends = np.array([z for piece in rest for z in (piece.start, piece.end)], dtype=complex)
    tree = cKDTree(np.column_stack((ends.real, ends.imag))) if ends.size else None
    used = [False] * len(rest)
    work = work or CancellationToken()
    for first in range(len(rest)):
        if used[first]:
            continue
        used[first] = True
        chain = [rest[first]]
        while tree is not None:
            work.check()
            at = chain[-1].end
            if len(chain) > 1 and abs(at - chain[0].start) <= tolerance:
                break
            near = tree.query_ball_point((at.real, at.imag), tolerance)
            near = sorted((abs(ends[k] - at), k) for k in near if not used[k // 2])
            if not near:
                break
            number = near[0][1]
            used[number // 2] = True
            piece = rest[number // 2]
            chain.append(piece.turned() if number % 2 else piece)
        gap = abs(chain[-1].end - chain[0].start)
        if gap > tolerance:
            open_ += 1
            continue
        found, mended = _closed(chain)
        healed += mended
        outlines.append(Outline(layer, tuple(found)))
    if healed:
        report.append(f"{_count(healed, 'gap')} healed within {tolerance:g}")
    if open_:
        report.append(f"{_count(open_, 'open chain')} left out, whose ends are further apart")
    return [outline for outline in outlines if abs(outline.area) > 0], report


def _closed(chain: list[DrawnPiece]) -> tuple[list[DrawnPiece], int]:
    """A chain whose ends meet exactly, and how many gaps were healed for it."""
    found: list[DrawnPiece] = []
    mended = 0
    for k, piece in enumerate(chain):
        after = chain[(k + 1) % len(chain)]
        tolerance = 1e-9 * max(abs(piece.start), abs(piece.end), 1.0)
        loose = piece.center is None or bool(found and abs(found[-1].end - piece.start) <= tolerance)
        now = replace(piece, start=found[-1].end) if found and loose else piece
        if now.center is not None and found and found[-1].end != now.start:
            if found[-1].center is None:
                found[-1] = replace(found[-1], end=now.start)
            else:
                found.append(DrawnPiece(found[-1].end, now.start))
        gap = abs(now.end - after.start)
        if gap > 0:
            mended += gap > tolerance
            if now.center is None or gap <= tolerance:
                now = replace(now, end=after.start)
        found.append(now)
    if found[-1].end != found[0].start:
        if found[0].center is None:
            found[0] = replace(found[0], start=found[-1].end)
        else:
            found.append(DrawnPiece(found[-1].end, found[0].start))
    return found, mended


def nested(outlines: Iterable[Outline], work: CancellationToken | None = None) -> list[Outline]:
    """Outlines with those that lie within them as their cuts; what lies within a cut is an outline again."""
    ordered = sorted(outlines, key=lambda outline: -abs(outline.area))
    rings = Rings(ordered, work)
    depth: list[int] = []
    within: dict[int, list[Outline]] = {}
    for k, outline in enumerate(ordered):
        parent = next(rings.around(rings.first(k), k), None)
        depth.append(0 if parent is None else depth[parent] + 1)
        if parent is not None:
            within.setdefault(parent, []).append(outline)
    return [
        replace(outline, cuts=tuple(within.get(k, ()))) for k, outline in enumerate(ordered) if depth[k] % 2 == 0
    ]


def shared_cuts(
    outlines: Iterable[Outline], cuts: Iterable[Outline], work: CancellationToken | None = None
) -> list[Outline]:
    """Outlines with further cuts, each given to the smallest outline in which it lies; others are left out."""
    found = list(outlines)
    order = sorted(range(len(found)), key=lambda k: -abs(found[k].area))
    rings = Rings([found[k] for k in order], work)
    further: dict[int, list[Outline]] = {}
    for cut in cuts:
        around = next(rings.around(cut.pieces[0].start, len(found)), None)
        if around is not None:
            further.setdefault(order[around], []).append(cut)
    return [replace(outline, cuts=(*outline.cuts, *further.get(k, ()))) for k, outline in enumerate(found)]


class Rings:
    """Places along outlines, to tell what lies within which. The outlines stand from the largest to the smallest."""

    def __init__(self, outlines: Sequence[Outline], work: CancellationToken | None = None):
        self.work = work or CancellationToken()
        self.rings = []
        for outline in outlines:
            self.work.check()
            self.rings.append(_flat(outline))
        self.low = np.array([complex(ring.real.min(), ring.imag.min()) for ring in self.rings], dtype=complex)
        self.high = np.array([complex(ring.real.max(), ring.imag.max()) for ring in self.rings], dtype=complex)

    def first(self, k: int) -> complex:
        """A place on an outline."""
        return complex(self.rings[k][0])

    def around(self, z: complex, count: int) -> Iterator[int]:
        """Which of the first so many outlines lie around a place, the smallest first."""
        self.work.check()
        low, high = self.low[:count], self.high[:count]
        boxed = (low.real <= z.real) & (z.real <= high.real) & (low.imag <= z.imag) & (z.imag <= high.imag)
        return (int(k) for k in np.flatnonzero(boxed)[::-1] if _within(z, self.rings[k]))


def _flat(outline: Outline) -> np.ndarray:
    """Places along an outline (N,), close enough to tell what lies inside."""
    spots: list[complex] = []
    for piece in outline.pieces:
        if piece.center is None:
            spots.append(piece.start)
        else:
            turns = np.linspace(0.0, piece.sweep, 33)[:-1]
            spots += list(piece.center + (piece.start - piece.center) * np.exp(1j * turns))
    return np.array(spots)


def _within(z: complex, ring: np.ndarray) -> bool:
    """Whether a place lies in a ring, by the turns that the ring makes about it."""
    around = np.angle(np.roll(ring - z, -1) / np.where(ring == z, 1.0, ring - z))
    return bool(abs(around.sum()) > math.pi)


def _count(number: int, word: str) -> str:
    return f"{number} {word}{'' if number == 1 else 's'}"
