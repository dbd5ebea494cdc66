"""A single feature of a part, as a thing of its own: where it stands in the tree, moved, placed, taken away.

A feature is a named point, a shape (a hole, a slot), or a contact edge. Its place in the tree is that of the part with
what stands inside it: ``points.A``, ``shapes.2``, ``edges.rim``.
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import combinations
from typing import Any

from ..document.changes import Change, Place, Remove, Set, changed, lookup
from ..document.expressions import ExpressionError
from ..document.model import Document
from ..document.written import tidy
from ..errors import DocumentError, Fault, located
from ..geometry.features import Feature
from ..kinds import FieldForm
from .building import Size, said_at

SECTIONS = ("points", "shapes", "edges")
MOVED = re.compile(r"^(?P<base>.*) (?P<sign>[+-]) (?P<by>[0-9.e-]+)( (?P<unit>[a-z]+))?$", re.DOTALL)
"""A coordinate that was moved off an expression, as it is written here."""


@dataclass(frozen=True)
class OwnFeature:
    """A feature of a part by its place inside the part: ``("points", "A")``, ``("shapes", 2)``, ``("edges",
    "rim")``."""

    part: str
    inner: tuple[str | int, ...]

    @property
    def text(self) -> str:
        """The same as a text: ``crank#shapes.2``."""
        return f"{self.part}#{'.'.join(map(str, self.inner))}"


def own_feature(document: Document, text: str) -> OwnFeature | None:
    """A feature by its text; None where there is none."""
    part, _, inner = text.partition("#")
    section, _, key = inner.partition(".")
    if part not in document.parts or section not in SECTIONS or not key:
        return None
    held = _entry(document, part).get(section, [] if section == "shapes" else {})
    if section == "shapes":
        return OwnFeature(part, (section, int(key))) if key.isdigit() and int(key) < len(held) else None
    return OwnFeature(part, (section, key)) if key in held else None


def feature_of(document: Document, part: str, feature: Feature) -> OwnFeature | None:
    """What of a part was picked: what is cut into it or stands on it, else the point; None for the outline itself."""
    entry = _entry(document, part)
    shapes = entry.get("shapes", [])
    if feature.shape is not None and feature.shape < len(shapes):
        shape = shapes[feature.shape]
        if shape.get("cut") or feature.shape > 0:
            return OwnFeature(part, ("shapes", feature.shape))
    if feature.name and feature.name in entry.get("points", {}):
        return OwnFeature(part, ("points", feature.name))
    return None


def place_of(document: Document, one: OwnFeature) -> tuple[str | int, ...]:
    """Where a feature stands in the tree: in the definition that its part follows."""
    return (*said_at(document, one.part, 0j)[1], *one.inner)


def spots_of(document: Document, one: OwnFeature) -> dict[Place, complex]:
    """The places in the tree of all coordinates by which a feature lies where it does, with where that is in the axes
    of the part that is said: of a shape that runs through named points, theirs."""
    there, place, _ = said_at(document, one.part, 0j)
    section, key = one.inner[0], one.inner[1]
    if section == "points":
        where: Place = (*place, "points", str(key))
        return {where: _worth(document, lookup(document.tree, where), one.part)}
    entry = lookup(document.tree, (*place, *one.inner))
    found: dict[Place, complex] = {}

    def add(where: Place, value: Any) -> None:
        if isinstance(value, str):
            where = (*place, "points", value)
            value = lookup(document.tree, where)
        if isinstance(value, list) and len(value) == 2:
            found[where] = _worth(document, value, one.part)

    if section == "edges":
        for name in ("from", "to", "center"):
            if isinstance(entry.get(name), (str, list)):
                add((*place, *one.inner, name), entry[name])
        return found
    shape = there.shapes[int(key)]
    for field in shape.fields:
        value, where = entry.get(field.name), (*place, *one.inner, field.name)
        if field.form is FieldForm.SPOT and value is not None:
            add(where, value)
        elif field.form is FieldForm.SPOTS:
            for k, each in enumerate(value or ()):
                add((*where, k), each)
        elif field.form is FieldForm.SEGMENTS:
            for k, each in enumerate(value or ()):
                for name in ("to", "center"):
                    if name in each:
                        add((*where, k, name), each[name])
    return found


def moved(document: Document, one: OwnFeature, by: complex) -> tuple[Change, ...]:
    """The changes that move a feature by so much in the axes of the part that is said (document lengths). A named point
    goes along with all that stands on it, joints too; an expression keeps what it says, with the way added to it."""
    changes: list[Change] = []
    for place in spots_of(document, one):
        written = lookup(document.tree, place)
        ways = zip(written, (by.real, by.imag), strict=True)
        changes.append(Set(place, [_on(document, one.part, text, way) for text, way in ways]))
    return tuple(changes)


def placed(
    document: Document, one: OwnFeature, axis: int, distance: Size, base: complex = 0j
) -> tuple[Change, ...]:
    """The changes that put the first place of a feature so far from another along an axis (0: x, 1: y) of the part that
    is said; its other places go along. An expression is kept."""
    spots = spots_of(document, one)
    first = next(iter(spots))
    at, start = ((z.real, z.imag)[axis] for z in (spots[first], base))
    number = distance if not isinstance(distance, str) else document.worth(distance, "length", one.part)
    by = start + number - at
    changes: list[Change] = []
    for place in spots:
        written = list(lookup(document.tree, place))
        if place == first and isinstance(distance, str):
            base_text = _length(document, one.part, distance, start)
            written[axis] = distance if not start else f"{base_text} + ({distance})"
        else:
            written[axis] = _on(document, one.part, written[axis], by)
        changes.append(Set(place, written))
    return tuple(changes)


class Alignment(StrEnum):
    """How features are brought in order, in the axes of their part."""

    LEVEL = "level"
    """At the height of the first that was chosen."""
    UPRIGHT = "upright"
    """Above each other, by the first."""
    IN_LINE = "in line"
    """On the line through the two that are furthest apart."""
    EVENLY = "evenly spaced"
    """Along that line at equal steps; how far each is aside of it stays."""


def aligned(document: Document, ones: Sequence[OwnFeature], how: Alignment) -> tuple[Change, ...]:
    """The changes that bring features of one part in order. Raises `DocumentError` for too few of them, or for those of
    several parts."""
    ones = list(dict.fromkeys(ones))
    parts = list(dict.fromkeys(one.part for one in ones))
    least = 3 if how in (Alignment.IN_LINE, Alignment.EVENLY) else 2
    if len(parts) > 1:
        raise located(f"parts.{parts[1]}", f"holes of one part are wanted; these are of {' and '.join(parts)}")
    if len(ones) < least:
        text = f"{least} holes or more are wanted, here are {len(ones)}"
        raise located(f"parts.{parts[0]}" if parts else "parts", text)
    at = [next(iter(spots_of(document, one).values())) for one in ones]
    changes: list[Change] = []
    now = document
    for one, by in zip(ones, _ways(at, how), strict=True):
        if abs(by) > 1e-12:
            made = moved(now, one, by)
            changes += made
            now = changed(now, *made)
    return tuple(changes)


def _ways(at: Sequence[complex], how: Alignment) -> list[complex]:
    """How far each place goes."""
    if how is Alignment.LEVEL:
        return [1j * (at[0] - z).imag for z in at]
    if how is Alignment.UPRIGHT:
        return [complex((at[0] - z).real) for z in at]
    one, two = max(combinations(at, 2), key=lambda pair: abs(pair[1] - pair[0]))
    if abs(two - one) < 1e-9:
        raise located("parts", "all of them lie at one place; move one first")
    unit = (two - one) / abs(two - one)
    along = [((z - one) * unit.conjugate()).real for z in at]
    if how is Alignment.IN_LINE:
        return [one + unit * far - z for far, z in zip(along, at, strict=True)]
    order = sorted(range(len(at)), key=lambda k: along[k])
    step = abs(two - one) / (len(at) - 1)
    return [unit * (order.index(k) * step - along[k]) for k in range(len(at))]


def without(document: Document, one: OwnFeature) -> tuple[Change, ...]:
    """The changes that take a feature away. A hole's or a slot's own points stay where joints or other shapes use them,
    else they go too. Raises `DocumentError` for a point or an edge that something needs."""
    there, place, _ = said_at(document, one.part, 0j)
    section, key = one.inner[0], one.inner[1]
    if section == "shapes":
        shapes = list(lookup(document.tree, (*place, "shapes")))
        gone = shapes.pop(int(key))
        changes: list[Change] = [Set((*place, "shapes"), shapes)]
        for name in dict.fromkeys(_names_in(gone)):
            if name in there.points and not _needed(document, one.part, name, without_shape=int(key)):
                changes.append(Remove((*place, "points", name)))
        return tuple(changes)
    users = _users(document, one.part, str(key))
    if section == "points" and not users:
        shapes = lookup(document.tree, (*place, "shapes"), [])
        users = [f"shape {k + 1}" for k, shape in enumerate(shapes) if str(key) in _names_in(shape)]
    if users:
        what = "point" if section == "points" else "edge"
        by = f"{', '.join(users[:4])}{' …' if len(users) > 4 else ''}"
        text = f"{what} '{key}' is needed by {by}; take that away first"
        raise DocumentError([Fault(".".join(map(str, place_of(document, one))), text)])
    return (Remove((*place, section, str(key))),)


def _entry(document: Document, part: str) -> Mapping[str, Any]:
    found: Mapping[str, Any] = lookup(document.tree, said_at(document, part, 0j)[1], {})
    return found


def _names_in(shape: Mapping[str, Any]) -> list[str]:
    """The points by which a shape lies."""
    found: list[str] = []
    for key in ("center", "start"):
        if isinstance(shape.get(key), str):
            found.append(shape[key])
    for key in ("through", "vertices"):
        found += [each for each in shape.get(key, ()) if isinstance(each, str)]
    return found


def _users(document: Document, part: str, point: str) -> list[str]:
    """What refers to a point of a part, by name."""
    said = said_at(document, part, 0j)[0].id
    follows = {name for name in document.parts if said_at(document, name, 0j)[0].id == said}
    found = []
    for joint in document.joints.values():
        if any((end.part in follows) and end.point == point for end in (joint.a, joint.b)):
            found.append(f"joint {joint.id}")
    for trace in document.traces.values():
        if trace.point.part in follows and trace.point.point == point:
            found.append(f"trace {trace.id}")
    for measure in document.measures.values():
        if any(ref.part in follows and ref.point == point for side in (measure.a, measure.b) for ref in side):
            found.append(f"measure {measure.id}")
    return found


def _needed(document: Document, part: str, point: str, without_shape: int) -> bool:
    """Whether something beside a shape that goes needs its point."""
    _, place, _ = said_at(document, part, 0j)
    shapes = [shape for k, shape in enumerate(lookup(document.tree, (*place, "shapes"))) if k != without_shape]
    try:
        changed(document, Set((*place, "shapes"), shapes), Remove((*place, "points", point)))
    except DocumentError:
        return True
    return False


def _worth(document: Document, pair: Sequence[Any], part: str) -> complex:
    """A place as it is written (document lengths)."""
    return complex(*(document.worth(text, "length", part) if isinstance(text, str) else float(text) for text in pair))


def _length(document: Document, part: str, beside: str, value: float) -> str:
    """A length as it is said beside an expression: with its unit, but beside one that counts nothing."""
    text = f"{tidy(value)!r}"
    try:
        document.worth(f"({beside}) + 1", "number", part)
    except ExpressionError:
        return f"{text} {document.units.length}"
    return text


def _on(document: Document, part: str, written: float | str, by: float) -> float | str:
    """A coordinate moved by so much, as it is written."""
    if not isinstance(written, str):
        return tidy(written + by)
    if abs(by) < 1e-12:
        return written
    found = MOVED.fullmatch(written)
    if found and found["unit"] in (None, document.units.length):
        by += float(found["by"]) * (1.0 if found["sign"] == "+" else -1.0)
        written = found["base"]
        if abs(tidy(by)) < 1e-9:
            return written
    return f"{written} {'+' if by > 0 else '-'} {_length(document, part, written, abs(by))}"


__all__ = ["Alignment", "OwnFeature", "aligned", "feature_of", "moved", "own_feature", "place_of", "placed", "spots_of",
           "without"]  # fmt: skip
