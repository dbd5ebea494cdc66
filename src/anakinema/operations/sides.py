"""The sides of a free outline as sizes: how long each straight one is, the radius of each arc, and what moves when it
is to be another.

A side has no number of its own in the file, only its corners have. A new length moves the corner at its far end along
the side; where the side behind that runs on to one parallel to the first, as in every right-angled outline, that side
moves along whole, and the parallel one takes up the change. A new radius leaves the ends of the arc where they are and
moves its center. An expression is kept: the corner or center is written by it.
"""

import cmath
import math
import re
from collections.abc import Sequence
from typing import Any

from ..document.changes import Change, Place, Set, lookup
from ..document.expressions import ExpressionError, evaluate
from ..document.model import Document
from ..document.written import tidy
from ..errors import DocumentError, Fault
from ..geometry import shapes as s

SQUARE = 1e-9
"""Sine of the angle within which sides are parallel, or run along an axis."""
Corner = list[Any]
"""As the tree says it: ``[x, y]``, each a number or an expression."""


def moved_corners(spots: Sequence[complex], straight: Sequence[bool], side: int) -> tuple[int, int, list[int]]:
    """The corner that stays and the one that goes when a side becomes longer, and all that go with it; none where a
    side that would be moved is an arc. The first corner, the outline's own origin, stays where it can."""
    count = len(spots)
    one, two, way = (side, (side + 1) % count, 1) if side < count - 1 else (0, count - 1, -1)
    if not straight[side]:
        return one, two, []

    def next_of(corner: int) -> int:
        return (corner + way) % count

    def is_straight(corner: int) -> bool:
        """Whether the side from a corner on is straight."""
        return straight[corner if way > 0 else (corner - 1) % count]

    moved = [two]
    along, after, last = spots[two] - spots[one], next_of(two), next_of(next_of(two))
    behind = spots[last] - spots[after]
    parallel = abs((along.conjugate() * behind).imag) < SQUARE * abs(along) * abs(behind) if behind else False
    if count > 3 and is_straight(two) and is_straight(after) and after != one and last != two and parallel:
        moved.append(after)
    ends = moved[-1]
    return one, two, moved if is_straight(ends) and is_straight(two) else []


def lengthened(
    written: Sequence[Corner], spots: Sequence[complex], stays: int, goes: int, moved: Sequence[int],
    length: float | str,
) -> dict[int, Corner]:  # fmt: skip
    """The corners that move, as they are written when a side is so long (a number in document units, or an
    expression)."""
    along = spots[goes] - spots[stays]
    way = along / abs(along)
    found: dict[int, Corner] = {}
    for corner in moved:
        new = list(written[corner])
        for axis, share in enumerate((way.real, way.imag)):
            if abs(share) < SQUARE:
                continue
            own, first = ((spot.real, spot.imag)[axis] for spot in (spots[corner], spots[goes]))
            start = (spots[stays].real, spots[stays].imag)[axis]
            if corner != goes and abs(own - first) < SQUARE * max(1.0, abs(first)):
                new[axis] = found[goes][axis]
            elif corner == goes:
                new[axis] = _on(written[stays][axis], start, length, share)
            else:
                new[axis] = _on(written[corner][axis], own - abs(along) * share, length, share, abs(along))
        found[corner] = new
    return found


def _on(base: float | str, at: float, length: float | str, share: float, less: float = 0.0) -> float | str:
    """A coordinate that lies a share of a length on from another, as written."""
    share = round(share) if abs(share - round(share)) < SQUARE else share
    if not isinstance(length, str):
        return tidy(at + share * length)
    gone = f"({length})" if not less else f"(({length}) - {less!r})"
    gone = gone if abs(share) == 1 else f"{gone}*{abs(share)!r}"
    if base == 0 and share > 0:
        return length if gone == f"({length})" else gone
    return f"{base} {'+' if share > 0 else '-'} {gone}"


def middle_of(shape: s.Shape, side: int) -> complex:
    """The middle of a side, along the arc where it is one."""
    spots, _ = shape.corners()
    one, two, arc = spots[side], spots[(side + 1) % len(spots)], shape.arc_of(side)
    if arc is None or arc.center is None:
        return (one + two) / 2
    center = complex(*arc.center)
    swept = cmath.phase((two - center) / (one - center)) % math.tau
    return center + (one - center) * cmath.rect(1.0, swept / 2 if arc.ccw else swept / 2 - math.pi)


def size_of_side(document: Document, place: Place, shape: s.Shape, side: int) -> float | str | None:
    """The length of a straight side or the radius of an arc: as it was written where that is still seen, else the
    number (document lengths); None where it has none that can be typed."""
    arc = shape.arc_of(side)
    return side_length(document, place, shape, side) if arc is None else _radius(document, place, shape, side, arc)


def with_size_of_side(
    document: Document, place: Place, shape: s.Shape, side: int, size: float | str
) -> tuple[Change, ...]:
    """An outline, at a place of the tree, one side of which is so long, or an arc of such a radius. Raises
    `DocumentError` where it has no such size."""
    arc = shape.arc_of(side)
    if arc is None:
        return with_side(document, place, shape, side, size)
    return _with_radius(document, place, shape, side, arc, size)


SEEN = re.compile(r".*\((.+)\)\*sqrt\(1 - .*", re.DOTALL)
"""The radius in the coordinate of a center, as `_with_radius` writes it."""


def _radius(document: Document, place: Place, shape: s.Shape, side: int, arc: s.Segment) -> float | str | None:
    """The radius of an arc between corners that are plain numbers."""
    spots, _ = shape.corners()
    places = shape.corner_keys()
    ends = [lookup(document.tree, (*place, *places[each])) for each in (side, (side + 1) % len(spots))]
    center = lookup(document.tree, (*place, "segments", side, "center"))
    if not all(isinstance(each, list) for each in (*ends, center)):
        return None
    if any(isinstance(number, str) for each in ends for number in each):
        return None  # the ends move by themselves, and a center that is written here would not
    for text in center:
        if isinstance(text, str) and (found := SEEN.fullmatch(text)):
            return found[1]
    assert arc.center is not None
    return None if any(isinstance(each, str) for each in center) else tidy(abs(spots[side] - complex(*arc.center)))


def _with_radius(
    document: Document, place: Place, shape: s.Shape, side: int, arc: s.Segment, radius: float | str
) -> tuple[Change, ...]:
    where = ".".join(map(str, (*place, "segments", side)))
    if _radius(document, place, shape, side, arc) is None or arc.center is None:
        raise DocumentError([Fault(where, "this arc has no radius of its own; move its center")])
    spots, _ = shape.corners()
    one, two = spots[side], spots[(side + 1) % len(spots)]
    middle, half = (one + two) / 2, abs(two - one) / 2
    own = complex(*arc.center) - middle
    left = 1j * (two - one) / (2 * half) if half else own / abs(own)  # a full circle has no chord
    aside = (own * left.conjugate()).real
    way = left * (math.copysign(1.0, aside) if abs(aside) > SQUARE * half else (1.0 if arc.ccw else -1.0))
    if not isinstance(radius, str):
        if radius < half:
            least = f"{tidy(half):g}"
            raise DocumentError([Fault(where, f"an arc between these ends has a radius of {least} or more")])
        center = middle + way * math.sqrt(max(radius * radius - half * half, 0.0))
        return (Set((*place, "segments", side, "center"), [tidy(center.real), tidy(center.imag)]),)
    try:
        plain = not evaluate(radius, document.quantities, document.units).powers
    except ExpressionError as error:
        raise DocumentError([Fault(where, str(error))]) from error
    short = f"{half!r}" if plain else f"{half!r} {document.units.length}"
    written: list[Any] = []
    for at, share in ((middle.real, way.real), (middle.imag, way.imag)):
        reach = f"({radius})*sqrt(1 - ({short}/({radius}))^2)"
        factor = "" if abs(share) > 1 - SQUARE else f"{abs(share)!r}*"
        sign = "+" if share > 0 else "-"
        written.append(tidy(at) if abs(share) < SQUARE else f"{tidy(at)!r} {sign} {factor}{reach}")
    return (Set((*place, "segments", side, "center"), written),)


def side_length(document: Document, place: Place, shape: s.Shape, side: int) -> float | str | None:
    """How long a side is: as it was written where that is still seen, else the number (document lengths); None where it
    has no length that can be typed."""
    spots, straight = shape.corners()
    if side >= len(spots):
        return None
    places = shape.corner_keys()
    written = [lookup(document.tree, (*place, *each)) for each in places]
    one, two, moved = moved_corners(spots, straight, side)
    if not moved or not all(isinstance(written[each], list) for each in (one, *moved)):
        return None
    along = spots[two] - spots[one]
    if abs(along) < SQUARE:
        return None
    for axis, share in enumerate((along.real, along.imag)):
        text, base = written[two][axis], written[one][axis]
        if isinstance(text, str) and abs(abs(share) - abs(along)) < SQUARE * abs(along):
            if base == 0 and share > 0:
                return text
            found = re.fullmatch(re.escape(f"{base} {'+' if share > 0 else '-'} ") + r"\((.*)\)", text)
            if found:
                return found[1]
    return tidy(abs(along))


def with_side(document: Document, place: Place, shape: s.Shape, side: int, length: float | str) -> tuple[Change, ...]:
    """An outline, at a place of the tree, one side of which is so long. Raises `DocumentError` where it is none."""
    if side_length(document, place, shape, side) is None:
        raise DocumentError([Fault(".".join(map(str, place)), "this side has no length of its own; move its corners")])
    if not isinstance(length, str) and length <= 0:
        raise DocumentError([Fault(".".join(map(str, place)), "a side must be longer than zero")])
    spots, straight = shape.corners()
    places = shape.corner_keys()
    written = [lookup(document.tree, (*place, *each)) for each in places]
    new = lengthened(written, spots, *moved_corners(spots, straight, side), length)
    return tuple(Set((*place, *places[corner]), entry) for corner, entry in new.items())
