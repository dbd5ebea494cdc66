"""What a drawing holds: lines and arcs on layers, chained into outlines, of which some lie within others."""

import cmath
import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from ..cancellation import CancellationToken
from ..errors import located

SECONDS = 20
"""What finding outlines may take of the processor (s)."""
MOST_NEAR = 32
"""Ends of a heap among which the nearest is looked for."""
MOST_TOLD = 3
"""Open places that are told by where they are."""
GAP = 1e-4
"""Gap that is healed where no other is wanted, as a share of the drawing's extent."""
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
    complete: bool = True
    """Whether all came as it was: nothing was left out or mended."""

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


@dataclass(frozen=True)
class Outlined:
    """The outlines of what was chosen, in the unit that is wanted, what there is to tell of them, and what stays out:
    between which places (two each) chains of pieces are open, and the lines of these and of what lies within them."""

    outlines: list[Outline]
    remarks: list[str]
    gaps: list[tuple[complex, complex]]
    left: list[tuple[DrawnPiece, ...]]

    @property
    def counted(self) -> str:
        """How many parts with how many cuts."""
        cuts = sum(len(outline.cuts) for outline in self.outlines)
        return f"{_count(len(self.outlines), 'part')} with {_count(cuts, 'cut')}"


@dataclass(frozen=True)
class Chains:
    """Closed outlines, chains of pieces that stay open, and how many gaps were healed."""

    outlines: list[Outline]
    open: list[tuple[DrawnPiece, ...]]
    healed: int


def outlined(drawing: Drawing, chosen: Chosen, work: CancellationToken | None = None) -> Outlined:
    """The outlines of what is chosen. Layers that the drawing has not are none. What lies on another layer lies before
    or behind, and is no cut. What lies within a contour that is open stays out: it may be a hole of that. Raises
    `DocumentError` where it takes too long."""
    text = f"its outlines take more than {SECONDS} s to find; choose fewer layers, or leave out what is no outline"
    work = (work or CancellationToken()).within(SECONDS, lambda: located("", text))
    parts: list[Outline] = []
    cuts: list[Outline] = []
    remarks: list[str] = []
    gaps: list[tuple[complex, complex]] = []
    left: list[tuple[DrawnPiece, ...]] = []
    for layer in drawing.layers:
        if layer not in (*chosen.parts, *chosen.cuts):
            continue
        pieces = [piece.scaled(chosen.scale) for piece in drawing.layers[layer]]
        chains = chained(layer, pieces, chosen.gap * chosen.scale, work)
        found = chains.outlines
        left += chains.open
        if layer in chosen.parts:
            inside = _inside_open(chains, work)
            left += [found[k].pieces for k in inside]
            found = [outline for k, outline in enumerate(found) if k not in inside]
            parts += nested(found, work)
        else:
            inside = set()
            cuts += found
        wide = _gaps(chains)
        gaps += wide
        remarks += [f"{layer}: {line}" for line in _told_of(chains, wide, len(inside), chosen.gap * chosen.scale)]
    return Outlined(shared_cuts(parts, cuts, work), remarks, gaps, left)


def _gaps(chains: Chains) -> list[tuple[complex, complex]]:
    """Between which places chains are open, the narrowest gap first: from each end to the end that is nearest, of
    another chain or of the same, but not of the same piece."""
    from scipy.spatial import cKDTree

    ends = np.array([z for chain in chains.open for z in (chain[0].start, chain[-1].end)], dtype=complex)
    if ends.size < 2:
        return []
    near, which = cKDTree(np.column_stack((ends.real, ends.imag))).query(
        np.column_stack((ends.real, ends.imag)), k=min(4, ends.size)
    )
    found: dict[tuple[int, int], float] = {}
    for k, (distances, others) in enumerate(zip(near.tolist(), which.tolist(), strict=True)):
        for distance, other in zip(distances, others, strict=True):
            if other != k and (other // 2 != k // 2 or len(chains.open[k // 2]) > 1):
                found[min(k, other), max(k, other)] = distance
                break
    return [(complex(ends[a]), complex(ends[b])) for a, b in sorted(found, key=lambda pair: found[pair])]


def _told_of(chains: Chains, wide: Sequence[tuple[complex, complex]], inside: int, tolerance: float) -> list[str]:
    """What there is to tell of chains, with the gaps between them."""
    told = []
    if chains.healed:
        told.append(f"{_count(chains.healed, 'gap')} healed within {tolerance:g}")
    if chains.open:
        places = [f"at ({one.real:.5g}, {one.imag:.5g}), {abs(two - one):.3g} wide" for one, two in wide[:MOST_TOLD]]
        more = " …" if len(wide) > MOST_TOLD else ""
        told.append(f"{_count(len(chains.open), 'open chain')} left out"
                    + (f": open {'; '.join(places)}{more}" if places else ""))  # fmt: skip
    if inside:
        told.append(f"{_count(inside, 'outline')} left out, which may be holes of what is open around")
    return told


def _inside_open(chains: Chains, work: CancellationToken) -> set[int]:
    """The numbers of the outlines that lie within a chain that is open, which would have to be closed first."""
    around = [Outline("", chain) for chain in chains.open if len(chain) > 1]
    around = sorted((each for each in around if abs(each.area) > 0), key=lambda each: -abs(each.area))
    if not around:
        return set()
    rings = Rings(around, work)
    return {k for k, outline in enumerate(chains.outlines)
            if next(rings.around(outline.pieces[0].start, len(around)), None) is not None}  # fmt: skip


def chained(
    layer: str, pieces: Sequence[DrawnPiece], tolerance: float, work: CancellationToken | None = None
) -> Chains:
    """Pieces chained end to end into closed outlines; gaps up to a tolerance are healed, by moving ends of lines or by
    a short line where an arc ends.

    >>> square = [DrawnPiece(0j, 1 + 0j), DrawnPiece(1 + 1j, 1 + 0j), DrawnPiece(1 + 1j, 1j), DrawnPiece(1j, 0j)]
    >>> len(chained("", square, 1e-6).outlines[0].pieces)
    4
    """
    def full(piece: DrawnPiece) -> bool:
        return piece.center is not None and abs(piece.end - piece.start) <= 1e-9 and piece.sweep != 0

    rest = [piece for piece in pieces if not full(piece) and (piece.center is not None or piece.start != piece.end)]
    outlines = [Outline(layer, (piece,)) for piece in pieces if full(piece)]
    open_: list[tuple[DrawnPiece, ...]] = []
    healed = 0
    ends = Ends([z for piece in rest for z in (piece.start, piece.end)], tolerance)
    work = work or CancellationToken()
    for first in range(len(rest)):
        if ends.taken[first]:
            continue
        ends.taken[first] = True
        chain, turned = [rest[first]], False
        while True:
            work.check()
            at = chain[-1].end
            if len(chain) > 1 and abs(at - chain[0].start) <= tolerance:
                break
            number = ends.nearest(at)
            if number is None:
                if turned:
                    break
                chain, turned = [piece.turned() for piece in reversed(chain)], True  # it may go on at its start
                continue
            ends.taken[number // 2] = True
            piece = rest[number // 2]
            chain.append(piece.turned() if number % 2 else piece)
        gap = abs(chain[-1].end - chain[0].start)
        if gap > tolerance:
            open_.append(tuple(chain))
            continue
        found, mended = _closed(chain)
        healed += mended
        outlines.append(Outline(layer, tuple(found)))
    return Chains([outline for outline in outlines if abs(outline.area) > 0], open_, healed)


class Ends:
    """The ends of pieces, two each, in cells as wide as the tolerance. Ends of pieces that are taken leave their cell
    when they are met there, so that a heap of ends at one place costs no more than as many elsewhere."""

    def __init__(self, ends: Sequence[complex], tolerance: float):
        self.ends, self.tolerance = ends, tolerance
        self.taken = [False] * (len(ends) // 2)
        """Whether a piece is in a chain."""
        self.wide = max(tolerance, 1e-12 * max(map(abs, ends), default=0.0), 1e-300)
        self.cells: dict[tuple[int, int], list[int]] = {}
        for number in reversed(range(len(ends))):
            self.cells.setdefault(self._cell(ends[number]), []).append(number)

    def _cell(self, z: complex) -> tuple[int, int]:
        return math.floor(z.real / self.wide), math.floor(z.imag / self.wide)

    def nearest(self, z: complex) -> int | None:
        """The number of the nearest end within the tolerance of a piece that is not taken; of a heap of ends, the
        nearest of the first few."""
        best, least = None, self.tolerance
        column, row = self._cell(z)
        for cell in ((column + i, row + j) for i in (0, -1, 1) for j in (0, -1, 1)):
            for number in self._free(cell):
                if (far := abs(self.ends[number] - z)) < least or (far == least and best is None):
                    best, least = number, far
        return best

    def _free(self, cell: tuple[int, int]) -> list[int]:
        """Some ends in a cell, the first first, of pieces that are not taken."""
        there = self.cells.get(cell)
        if not there:
            return []
        found: list[int] = []
        while there and len(found) < MOST_NEAR:
            number = there.pop()
            if not self.taken[number // 2]:
                found.append(number)
        there += reversed(found)
        return found


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
        boxes = [(ring.real.min(), ring.real.max(), ring.imag.min(), ring.imag.max()) for ring in self.rings]
        self.boxes = np.array(boxes).reshape(-1, 4).T.copy()
        """The least and greatest x, then y, of each (4, N)."""

    def first(self, k: int) -> complex:
        """A place on an outline."""
        return complex(self.rings[k][0])

    def around(self, z: complex, count: int) -> Iterator[int]:
        """Which of the first so many outlines lie around a place, the smallest first."""
        self.work.check()
        left, right, low, high = self.boxes[:, :count]
        boxed = (left <= z.real) & (z.real <= right) & (low <= z.imag) & (z.imag <= high)
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
