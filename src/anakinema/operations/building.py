"""Making parts: each function gives the changes that make one, and where it then stands in the document."""

import cmath
import copy
import math
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

from ..document.assemblies import within
from ..document.changes import Change, Place, Put
from ..document.model import Document
from ..errors import DocumentError, Fault
from ..geometry.shapes import Bar

WIDE = 0.2
"""Width of the first bar where none is said, about, as a share of its length."""
DIGITS = 9
"""Decimal places that are kept of what a hand has placed."""


Size = float | str
"""A number (document lengths), or an expression."""


@dataclass(frozen=True)
class Made:
    """Changes, and the place of what they make."""

    changes: tuple[Change, ...]
    place: Place


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
    """The next free letter for a point: A to Z, then P1, P2…"""
    known = set(taken)
    letters = (chr(code) for code in range(ord("A"), ord("Z") + 1))
    return next((letter for letter in letters if letter not in known), "") or free_name(known, "P1")


def tidy(number: float) -> float | int:
    """A number as a hand would write it: no digits that only rounding has left, and no point where it is whole."""
    rounded = round(number, DIGITS)
    return int(rounded) if rounded == int(rounded) and abs(rounded) < 1e15 else rounded


def _size(size: Size) -> Size:
    return size if isinstance(size, str) else tidy(size)


def _new_part(document: Document, word: str, entry: dict[str, Any]) -> Made:
    name = free_name(document.parts, "frame" if not document.parts else word)
    if not document.parts:
        entry = {"fixed": True, **entry}
    return Made((Put(("parts", name), entry),), ("parts", name))


def pose_of(document: Document, at: complex, angle: float = 0.0) -> list[float | int]:
    """A pose as the document writes it; the angle in rad."""
    turned = math.degrees(angle) if document.units.angle == "deg" else angle
    return [tidy(at.real), tidy(at.imag), tidy(turned)]


def place_at(document: Document, part: str, pose: tuple[float, float, float]) -> Change:
    """Puts a part roughly there (document lengths, rad); one of a sub-assembly in that use alone."""
    use, _, own = part.partition("/")
    if not own:
        return Put(("parts", part, "pose"), pose_of(document, complex(*pose[:2]), pose[2]))
    x, y, angle = within(pose, document.uses[use].pose)
    return Put(("parts", use, "poses", own), pose_of(document, complex(x, y), angle))


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
    wide = _size(usual_width(document, abs(own[1])) if width is None else width)
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


def add_hole(document: Document, part: str, center: complex, diameter: Size) -> Made:
    """A hole in a part, about a place in the part's own axes; the place becomes a point of the part. A copy follows
    what it is a copy of, so that gets the hole. Raises `DocumentError` for a copy that is turned over."""
    there = document.parts[part]
    while there.of and not any(word in document.entry("parts", there.id) for word in ("points", "shapes")):
        if document.entry("parts", there.id).get("mirror"):
            text = f"is '{there.of}' turned over; make the hole in that, and this follows"
            raise DocumentError([Fault(f"parts.{there.id}", text)])
        there = document.parts[there.of]
    place = document.home("parts", there.id)
    name = point_name({*there.points, *there.edges})
    hole = {"kind": "disc", "center": name, "diameter": _size(diameter), "cut": True}
    shapes = [*document.entry("parts", there.id).get("shapes", []), hole]
    return Made(
        (Put((*place, "points", name), [tidy(center.real), tidy(center.imag)]), Put((*place, "shapes"), shapes)), place
    )


def duplicate(document: Document, part: str, by: complex) -> Made:
    """A part like another, put down aside by so much; it is joined to nothing."""
    entry = copy.deepcopy(document.entry("parts", part))
    entry.pop("fixed", None)
    x, y, angle = document.parts[part].pose
    entry["pose"] = pose_of(document, complex(x, y) + by, angle)
    stem = part.rstrip("0123456789") or part
    name = free_name(document.parts, stem)
    return Made((Put(("parts", name), entry),), ("parts", name))
