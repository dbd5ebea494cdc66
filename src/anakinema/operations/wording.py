"""Findings and places of a document as people say them."""

from collections.abc import Sequence

from ..document.changes import lookup
from ..document.model import Document
from ..geometry.shapes import shape_kinds
from ..joints import JOINT_TYPES
from ..kinds import Dimension

AXES = {"0": "x", "1": "y", "2": "angle"}


def finding_words(document: Document, name: str) -> str:
    """A finding as it is said: ``stroke of the ram`` for ``joints.ram.travel``, ``swing of the arm`` where it turns."""
    section, _, rest = name.partition(".")
    if section == "checks":
        return f"check {rest}"
    thing, _, end = rest.rpartition(".")
    if section == "measures":
        return f"{'least' if end == 'min' else 'greatest'} {thing}"
    joint = document.joints[thing]
    turns = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) is Dimension.ANGLE
    words = {"travel": "swing" if turns else "stroke", "min": "least angle" if turns else "least position",
             "max": "greatest angle" if turns else "greatest position"}  # fmt: skip
    return f"{words[end]} of the {thing}"


def place_words(document: Document, place: Sequence[str | int]) -> str:
    """A place of the tree as it is said: ``rod: length`` rather than ``parts.rod.points.B.0``."""
    pieces = [str(piece) for piece in place]
    inside = ""
    if pieces[0] == "assemblies" and len(pieces) > 3:
        inside, pieces = f"{pieces[1]}/", pieces[2:]
    section, name, *rest = [*pieces, ""] if len(pieces) < 2 else pieces
    who = f"{inside}{name}"
    if not rest or section == "parameters":
        return who
    if section == "parts":
        return f"{who}: {_of_part(document, pieces, rest)}"
    if section == "joints" and rest[0] == "limits":
        return f"{who}: {' '.join(rest[1:])}"
    if section == "programs" and rest[0] == "segments" and len(rest) > 2:
        return f"{who}: segment {int(rest[1]) + 1} {' '.join(rest[2:])}"
    return f"{who}: {' '.join(AXES.get(piece, piece) for piece in rest)}".replace("_", " ")


def _of_part(document: Document, pieces: Sequence[str], rest: Sequence[str]) -> str:
    """What of a part stands at a place inside it."""
    kind, *more = rest
    if kind == "pose":
        return f"placed at {AXES.get(more[0], more[0])}" if more else "where it is placed"
    if kind == "points" and len(more) == 2:
        return _length_of(document, pieces[1], more[0], more[1]) or f"point {more[0]} {AXES[more[1]]}"
    if kind == "depth":
        return "depth" if not more else "back" if more[0] == "0" else "front"
    if kind == "shapes" and len(more) > 1:
        entry = lookup(document.tree, (*pieces[:2], "shapes", int(more[0])), {})
        forms = shape_kinds().get(entry.get("kind", ""), ())
        form = next((one for one in forms if one.fields[0].name in entry), forms[-1] if forms else None)
        title = form.title.lower() if form is not None else "shape"
        title = "hole" if title == "disc" and entry.get("cut") else title
        what = " ".join(AXES.get(piece, piece) if number else piece for number, piece in enumerate(more[1:]))
        first = more[0] == "0" and not entry.get("cut")
        return what.replace("_", " ") if first else f"{title} {what}".replace("_", " ")
    return " ".join([kind, *(AXES.get(piece, piece) for piece in more)])


def _length_of(document: Document, part: str, point: str, axis: str) -> str:
    """That a coordinate is the length of a bar, where the bar runs from the origin along x to the point."""
    one = document.parts.get(part)
    entry = document.entry("parts", part) if one is not None else {}
    shapes = entry.get("shapes", [])
    along = axis == "0" and bool(shapes) and shapes[0].get("kind") == "bar" and shapes[0]["through"][-1] == point
    return "length" if along else ""
