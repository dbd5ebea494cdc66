"""Making parts: each function gives the changes that make one, and where it then stands in the document."""

import cmath
import copy
import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from itertools import chain, count, pairwise
from typing import Any

from ..document.changes import Change, Place, Set, lookup
from ..document.copies import extent
from ..document.model import Document, Part
from ..document.written import pose_of, tidy
from ..errors import DocumentError, Fault
from ..geometry.features import SAME
from ..geometry.shapes import Bar
from ..kinds import Dimension
from .sides import lengthened

WIDE = 0.2
"""Width of the first bar where none is said, about, as a share of its length."""


Pose = tuple[float, float, float]
Size = float | str
"""A number (document lengths), or an expression."""


@dataclass(frozen=True)
class Made:
    """Changes, and the place of what they make."""

    changes: tuple[Change, ...]
    place: Place
    left: tuple[str, ...] = ()
    """Joints that were not made for copies, for they would not hold there."""
    dropped: tuple[str, ...] = ()
    """What was taken away, for it means nothing any more."""


def free_name(taken: Iterable[str], word: str) -> str:
    """A name that is not taken: the word itself, else with the least number behind.

    >>> free_name({"bar", "bar2"}, "bar")
    'bar3'
    """
    known = set(taken)
    number = 1
    while (name := word if number == 1 else f"{word}{number}") in known:
        number += 1
    return name


def point_name(taken: Iterable[str]) -> str:
    """The next free letter for a point: A to Z, then P1, P2…

    >>> point_name([*"ABCDEFGHIJKLMNOPQRSTUVWXYZ", "P1"])
    'P2'
    """
    known = taken if isinstance(taken, dict) else set(taken)
    letters = [chr(code) for code in range(ord("A"), ord("Z") + 1)]
    further = (f"P{number}" for number in count(max(1, len(known) - len(letters) + 1)))  # most often the first is free
    return next(name for name in chain(letters, further) if name not in known)


def _size(size: Size) -> Size:
    return size if isinstance(size, str) else tidy(size)


def _new_part(document: Document, word: str, entry: dict[str, Any]) -> Made:
    name = free_name(document.tree.get("parts", {}), "frame" if not document.parts else word)
    if not document.parts:
        entry = {"fixed": True, **entry}
    return Made((Set(("parts", name), entry),), ("parts", name))


def place_at(document: Document, part: str, pose: Pose, now: Pose) -> Change:
    """Puts a part roughly there (document lengths, rad) from where it stands `now`; with one of a sub-assembly goes the
    whole of that."""
    use, _, own = part.partition("/")
    if not own:
        return Set(("parts", part, "pose"), pose_of(document, complex(*pose[:2]), pose[2]))
    turn = pose[2] - now[2]
    if document.uses[use].of:  # with the part that is repeated go all
        x, y, angle = document.parts[document.uses[use].of].pose
        at = complex(x, y) + complex(*pose[:2]) - complex(*now[:2])
        return Set(("parts", document.uses[use].of, "pose"), pose_of(document, at, angle + turn))
    x, y, angle = document.uses[use].pose
    at = complex(*pose[:2]) + (complex(x, y) - complex(*now[:2])) * cmath.rect(1.0, turn)
    return Set(("parts", use, "pose"), pose_of(document, at, angle + turn))


def usual_width(document: Document, length: float) -> float:
    """The width of a bar where none is said: that of the newest bar, else a round share of its length."""
    widths = [shape.width for part in document.parts.values() for shape in part.shapes if isinstance(shape, Bar)]
    return widths[-1] if widths else float(f"{max(length, 1e-9) * WIDE:.1g}")


def add_bar(
    document: Document, spots: list[complex], width: Size | None = None, length: Size | None = None
) -> Made:
    """A bar with a hole at each spot (two or more, in the plane). Its first hole is its origin, the next lies along its
    x axis, at `length` where that is given. The very first part of a document is the frame. Raises `DocumentError`
    where two spots are one."""
    if len(spots) < 2 or any(abs(two - one) < 1e-9 for one, two in pairwise(spots)):
        raise DocumentError([Fault("parts", "a bar needs two places that are apart")])
    angle = cmath.phase(spots[1] - spots[0])
    own = [(spot - spots[0]) * cmath.rect(1.0, -angle) for spot in spots]
    names: list[str] = []
    for _ in own:
        names.append(point_name(names))
    points: dict[str, list[Size]] = {
        name: [tidy(spot.real), tidy(spot.imag)] for name, spot in zip(names, own, strict=True)
    }
    if length is not None:
        points[names[1]] = [_size(length), 0]
    wide = _size(usual_width(document, abs(own[-1])) if width is None else width)
    return _new_part(document, "bar", {
        "points": points, "pose": pose_of(document, spots[0], angle),
        "shapes": [{"kind": "bar", "through": names, "width": wide}],
    })


def add_disc(document: Document, center: complex, diameter: Size) -> Made:
    """A disc about a point in the plane."""
    return _new_part(document, "disc", {
        "points": {"A": [0, 0]}, "pose": pose_of(document, center),
        "shapes": [{"kind": "disc", "center": "A", "diameter": _size(diameter)}],
    })


def add_plate(document: Document, center: complex, width: Size, height: Size) -> Made:
    """A rectangular plate."""
    return _new_part(document, "plate", {
        "points": {"A": [0, 0]}, "pose": pose_of(document, center),
        "shapes": [{"kind": "rectangle", "center": "A", "size": [_size(width), _size(height)]}],
    })


def said_at(document: Document, part: str, at: complex) -> tuple[Part, tuple[str, ...], complex]:
    """Where the document says what a part is: the part that a copy follows, its place in the tree, and a place in the
    part's own axes in those of that (the mirror image where one is turned over)."""
    there = document.parts[part]
    while there.of and not any(word in document.entry("parts", there.id) for word in ("points", "shapes")):
        if document.entry("parts", there.id).get("mirror"):
            at = at.conjugate()
        there = document.parts[there.of]
    if document.is_mirrored(part):
        at = at.conjugate()
    return there, document.home("parts", there.id), at


def named_point(document: Document, part: str, at: complex) -> tuple[str, list[Change]]:
    """The name of a part's point at a place in its own axes; a new one where there is none."""
    for name, spot in document.parts[part].points.items():
        if abs(complex(*spot) - at) < SAME:
            return name, []
    there, place, own = said_at(document, part, at)
    name = point_name({*there.points, *there.edges})
    return name, [Set((*place, "points", name), [tidy(own.real), tidy(own.imag)])]


def _with_shape(document: Document, part: str, shape: dict[str, Any], spots: dict[str, complex]) -> Made:
    """A part with another shape. A place of the shape, of those in the part's own axes, becomes a point of the part,
    whose name it then is; where the part has a point there, that."""
    there, place, _ = said_at(document, part, 0j)
    changes: list[Change] = []
    taken = {*there.points, *there.edges}
    known = {name: complex(*at) for name, at in document.parts[part].points.items()}
    names = {}
    for key, at in spots.items():
        _, _, own = said_at(document, part, at)
        name = next((name for name, spot in known.items() if abs(spot - at) < SAME), "")
        if not name:
            name = point_name(taken)
            taken.add(name)
            known[name] = at
            changes.append(Set((*place, "points", name), [tidy(own.real), tidy(own.imag)]))
        names[key] = name
    filled = {key: [names.get(one, one) for one in value] if isinstance(value, list) else names.get(value, value)
              if isinstance(value, str) else value for key, value in shape.items()}  # fmt: skip
    shapes = [*lookup(document.tree, (*place, "shapes"), []), filled]
    return Made((*changes, Set((*place, "shapes"), shapes)), ("parts", part))


def add_hole(document: Document, part: str, center: complex, diameter: Size) -> Made:
    """A hole in a part, about a place in the part's own axes; the place becomes a point of the part. A copy follows
    what it is a copy of, so that gets the hole."""
    hole = {"kind": "disc", "center": "@center", "diameter": _size(diameter), "cut": True}
    return _with_shape(document, part, hole, {"@center": center})


def add_boss(
    document: Document, part: str, center: complex, diameter: Size, height: float, into: str = ""
) -> Made:
    """A boss or a pin on a part, in front of it, so high (document lengths); or through the part `into` which it
    reaches, before or behind."""
    back, front = extent([document.parts[part]])
    depth = [tidy(front), tidy(front + height)]
    if into:
        low, high = extent([document.parts[into]])
        if low >= front:
            depth = [tidy(front), tidy(high)]
        elif high <= back:
            depth = [tidy(low), tidy(back)]
    boss = {"kind": "disc", "center": "@center", "diameter": _size(diameter), "depth": depth}
    return _with_shape(document, part, boss, {"@center": center})


def add_slot(document: Document, part: str, one: complex, two: complex, width: Size) -> Made:
    """A straight slot in a part, between two places in its own axes. Raises `DocumentError` where they are one."""
    if abs(two - one) < SAME:
        raise DocumentError([Fault(f"parts.{part}", "a slot needs two ends that are apart")])
    slot = {"kind": "slot", "through": ["@one", "@two"], "width": _size(width), "cut": True}
    return _with_shape(document, part, slot, {"@one": one, "@two": two})


def add_arc_slot(document: Document, part: str, center: complex, one: complex, two: complex, width: Size) -> Made:
    """A slot along an arc about a center, counter-clockwise from one place to the direction of another, all in the
    part's own axes. Raises `DocumentError` where that is no arc."""
    turned = said_at(document, part, 1j)[2].imag < 0  # the definition is the mirror image
    start, stop = cmath.phase(one - center), cmath.phase(two - center)
    if abs(one - center) < SAME or abs(two - center) < SAME or abs(cmath.rect(1, start) - cmath.rect(1, stop)) < 1e-9:
        raise DocumentError([Fault(f"parts.{part}", "an arc slot needs a centre and two ends in two directions")])
    if turned:
        start, stop = -stop, -start
    stop = start + (stop - start) % math.tau
    per = Dimension.ANGLE.per_core(document.units)
    slot = {"kind": "slot", "center": "@center", "radius": tidy(abs(one - center)), "from": tidy(start * per),
            "to": tidy(stop * per), "width": _size(width), "cut": True}  # fmt: skip
    return _with_shape(document, part, slot, {"@center": center})


def add_outline(
    document: Document, start: complex, ends: list[complex], through: Mapping[int, complex],
    lengths: Mapping[int, str] | None = None,
) -> Made:  # fmt: skip
    """A part by its outline: from a place in the plane to each of the ends, the last back to the start. A side that
    runs `through` a place is an arc, else it is straight; with straight sides only it is a polygon, whose corners may
    be rounded. Expressions for the `lengths` of sides are kept. Its origin is the start. Raises `DocumentError` for
    fewer than three sides, two with an arc."""
    if len(ends) < (2 if through else 3):
        raise DocumentError([Fault("parts", "an outline needs three sides, or two with an arc")])
    spots = [start, *ends]
    own: list[list[Any]] = [[tidy((spot - start).real), tidy((spot - start).imag)] for spot in spots]
    for side in range(len(ends) if lengths else 0):  # what is said of a corner is said of the next in line with it
        own[side + 1] = [old if abs(x - z) < SAME else new for old, new, x, z in zip(
            own[side], own[side + 1], _pair(spots[side]), _pair(spots[side + 1]), strict=True)]  # fmt: skip
        if lengths and side in lengths:
            away = [spot - start for spot in spots]
            own[side + 1] = lengthened(own, away, side, side + 1, [side + 1], lengths[side])[side + 1]
    if not through:
        shape: dict[str, Any] = {"kind": "polygon", "vertices": own[:-1] if abs(spots[-1] - start) < SAME else own}
    else:
        segments: list[dict[str, Any]] = []
        for k, end in enumerate(ends):
            segment: dict[str, Any] = {"to": own[k + 1]}
            if k in through:
                center, ccw = arc_through(spots[k] - start, through[k] - start, end - start)
                segment |= {"center": [center.real, center.imag], "ccw": ccw}
            segments.append(segment)
        if abs(spots[-1] - start) < SAME:
            segments[-1]["to"] = own[0]
        shape = {"kind": "path", "start": own[0], "segments": segments}
    return _new_part(document, "plate", {"pose": pose_of(document, start), "points": {"A": [0, 0]}, "shapes": [shape]})


def _pair(spot: complex) -> tuple[float, float]:
    return spot.real, spot.imag


def arc_through(one: complex, through: complex, two: complex) -> tuple[complex, bool]:
    """Center of the circle through three places, and whether it runs counter-clockwise from the first to the last.
    Raises `DocumentError` where they lie on a line."""
    a, b = through - one, two - one
    cross = (a.conjugate() * b).imag
    if abs(cross) < 1e-12 * max(abs(a), abs(b)) ** 2 or not cross:
        raise DocumentError([Fault("parts", "the arc's three places lie on a line; draw a straight side there")])
    center = one + 1j * (a * abs(b) ** 2 - b * abs(a) ** 2) / (2 * cross)
    return center, cross > 0


def add_angled(document: Document, center: complex, width: Size, height: Size, leg: Size, tee: bool) -> Made:
    """An L (its corner below left) or a T (its bar above), so wide and high, its legs so thick: two rectangles joined,
    about the middle of the whole."""
    def half(size: Size) -> Size:
        return f"({size})/2" if isinstance(size, str) else tidy(size / 2)

    def less(one: Size, two: Size) -> Size:
        plain = not isinstance(one, str) and not isinstance(two, str)
        return tidy(one - two) if plain else f"({one})-({two})"  # type: ignore[operator]

    bar_at = half(less(height, leg)) if tee else half(less(leg, height))
    stem_x: Size = 0 if tee else half(less(leg, width))
    shapes = [
        {"kind": "rectangle", "center": [0, bar_at], "size": [_size(width), _size(leg)]},
        {"kind": "rectangle", "center": [stem_x, 0], "size": [_size(leg), _size(height)]},
    ]
    entry = {"points": {"A": [0, 0]}, "pose": pose_of(document, center), "shapes": shapes}
    return _new_part(document, "tee" if tee else "angle", entry)


def nudge(document: Document, parts: Iterable[str], by: complex) -> Made:
    """Moves the placement of parts aside; those of a sub-assembly move it whole."""
    changes: list[Change] = []
    place: tuple[str, ...] = ()
    tops = (part.partition("/")[0] for part in parts)
    for name in dict.fromkeys(document.uses[top].of or top if top in document.uses else top for top in tops):
        pose = document.uses[name].pose if name in document.uses else document.parts[name].pose
        changes.append(Set(("parts", name, "pose"), pose_of(document, complex(*pose[:2]) + by, pose[2])))
        place = ("uses" if name in document.uses else "parts", name)
    return Made(tuple(changes), place)


def duplicate(document: Document, part: str, by: complex) -> Made:
    """A part like another, put down aside by so much; it is joined to nothing."""
    entry = copy.deepcopy(document.entry("parts", part))
    entry.pop("fixed", None)
    x, y, angle = document.parts[part].pose
    entry["pose"] = pose_of(document, complex(x, y) + by, angle)
    stem = part.rstrip("0123456789") or part
    name = free_name(document.tree["parts"], stem)
    return Made((Set(("parts", name), entry),), ("parts", name))
