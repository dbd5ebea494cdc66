"""Hardware by one command: a joint pinned, parts of one body bolted together; holes that are missing are drilled."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..document.changes import Change, Place, Set
from ..document.fitting_hardware import faces, hole_in, nearest_edge
from ..document.model import Document, PointRef
from ..document.written import tidy
from ..errors import located
from ..hardware import TABLES, clearance_hole
from ..kinds import MM_IN
from .building import Made, free_name

EDGE = 1.2
"""Diameters of a hole from its middle to an edge (EN 1993-1-8, from memory)."""
OFF = 1e-6
"""How far holes may be off one axis (document lengths)."""


@dataclass(frozen=True)
class Way:
    """A way to fasten: what it is called, the standard whose sizes are offered, and the standards of its pieces."""

    title: str
    sizes: str
    pieces: tuple[tuple[str, str, str], ...]
    """Word of the name, standard, and where: ``front`` (on what is furthest in front), ``over`` (on the one before),
    ``back`` (on what is furthest behind), ``under`` (on the one before, behind)."""
    long: str
    """The word of the piece that runs through."""
    to: str
    """The word of the piece that this goes to; empty: the part furthest behind."""


WAYS: dict[str, Way] = {
    "screw": Way("Screw, washers, lock nut", "ISO 4762",
                 (("washer", "ISO 7089", "front"), ("screw", "ISO 4762", "over"), ("washer2", "ISO 7089", "back"),
                  ("nut", "ISO 10511", "under")), "screw", "nut"),
    "hexagon": Way("Hexagon screw, washer, nut", "ISO 4017",
                   (("screw", "ISO 4017", "front"), ("washer", "ISO 7089", "back"), ("nut", "ISO 4032", "under")),
                   "screw", "nut"),
    "countersunk": Way("Countersunk screw, washer, nut", "ISO 10642",
                       (("screw", "ISO 10642", "front"), ("washer", "ISO 7089", "back"), ("nut", "ISO 4032", "under")),
                       "screw", "nut"),
    "pin": Way("Clevis pin, washer, retaining ring", "ISO 2341",
               (("pin", "ISO 2341", "front"), ("ring", "DIN 471", "back")), "pin", "ring"),
    "dowel": Way("Dowel pin, a ring at each end", "ISO 2338",
                 (("ring", "DIN 471", "front"), ("pin", "ISO 2338", "over"), ("ring2", "DIN 471", "back")), "pin",
                 "ring2"),
    "shoulder": Way("Shoulder screw into the part behind", "ISO 7379", (("screw", "ISO 7379", "front"),), "screw", ""),
    "inch": Way("Inch screw, washers, nut", "ASME B18.3",
                (("washer", "ASME B18.21.1", "front"), ("screw", "ASME B18.3", "over"),
                 ("washer2", "ASME B18.21.1", "back"), ("nut", "ASME B18.2.2", "under")), "screw", "nut"),
}  # fmt: skip
"""By the word that a script says."""


def sizes_of(way: str) -> list[str]:
    """The sizes in which all pieces of a way are made."""
    standards = {standard for _, standard, _ in WAYS[way].pieces}
    return [size for size in TABLES[WAYS[way].sizes].rows if all(size in TABLES[one].rows for one in standards)]


def pinned_points(document: Document, joint: str) -> list[PointRef]:
    """The points on the axis of a revolute joint: its own, and those of all pins that share one of them. Raises
    `DocumentError` for what is no such joint."""
    if joint not in document.joints:
        raise located(f"joints.{joint}", "there is no such joint")
    one = document.joints[joint]
    if not one.kind.pin or one.kind.of_edges:
        raise located(f"joints.{joint}", f"a {one.type} joint has no pin; choose a revolute joint")
    found = {one.a: None, one.b: None}
    grew = True
    while grew:
        grew = False
        for other in document.active_joints.values():
            ends = {other.a, other.b}
            if other.kind.pin and not other.kind.of_edges and ends & found.keys() and not ends <= found.keys():
                found |= dict.fromkeys((other.a, other.b))
                grew = True
    parts: dict[str, PointRef] = {}
    for ref in found:
        if document.parts[ref.part].slabs:
            parts.setdefault(ref.part, ref)
    if len(parts) < 2:
        raise located(f"joints.{joint}", "a pin needs two parts with an outline; draw the other one first")
    return list(parts.values())


def proposed_size(document: Document, points: Sequence[PointRef], way: str) -> str:
    """The largest size whose hole leaves enough to the edges, or that fits the holes that are there."""
    found = ""
    holes = [(_hole(document, ref), _room(document, ref)) for ref in points]
    for size in sizes_of(way):
        shaft, hole = _diameters(document, way, size)
        if all((there >= shaft - OFF and (there <= hole * 1.15 or not there)) if there else EDGE * hole <= room
               for there, room in holes):  # fmt: skip
            found = size
    return found or sizes_of(way)[0]


def pin_joint(document: Document, joint: str, way: str = "screw", size: str = "") -> Made:
    """A stack of hardware through a revolute joint, in the order of the parts in depth; holes that are missing are
    drilled. Raises `DocumentError`."""
    points = pinned_points(document, joint)
    size = size or proposed_size(document, points, way)
    return _fastened(document, points, way, size, joint.rpartition("/")[2])


def bolt_together(document: Document, parts: Sequence[str], way: str = "hexagon", size: str = "") -> Made:
    """Hardware through every place where holes or points of parts of one body lie on one axis. Raises `DocumentError`
    where the parts are not of one body, or none of their holes line up."""
    chosen = [name for name in parts if document.parts[name].slabs and document.parts[name].hardware is None]
    if len(chosen) < 2:
        raise located("parts", "choose two parts or more that are to be bolted together")
    bodies = _bodies(document)
    if len({bodies[name] for name in chosen}) > 1:
        raise located(f"parts.{chosen[0]}", "these move against each other; make them a rigid group first (Ctrl+R)")
    changes: list[Change] = []
    place: Place = ()
    axes = list(_axes(document, chosen))
    if not axes:
        raise located(f"parts.{chosen[0]}", f"no holes of these line up: {_nearest(document, chosen)}")
    names = set(document.tree["parts"])
    for number, points in enumerate(axes, 1):
        one = size or proposed_size(document, points, way)
        made = _fastened(document, points, way, one, f"bolt{number}", names)
        names |= {str(change.place[1]) for change in made.changes if isinstance(change, Set)}
        changes += [change for change in made.changes if change not in changes]
        place = place or made.place
    return Made(tuple(changes), place)


def seats(document: Document, points: Sequence[PointRef]) -> list[tuple[str, bool]]:
    """The faces on an axis on which a piece may lie, from the front: of parts and of the pieces there, with whether it
    is a front face."""
    axis = set(points)
    names = {ref.part: _depth(document, ref) for ref in points}
    names |= {name: document.parts[name].depth for name in document.carried
              if (piece := document.parts[name].hardware) is not None and axis & set(piece.axis)}  # fmt: skip
    there = [(span[1], name, True) for name, span in names.items()]
    there += [(span[0], name, False) for name, span in names.items()]
    return [(name, front) for _, name, front in sorted(there, key=lambda one: (-one[0], not one[2]))]


def put_piece(
    document: Document, points: Sequence[PointRef], standard: str, size: str, seat: tuple[str, bool], to: str = ""
) -> Made:
    """One piece of a table about an axis, on a face; it moves with what it lies on, or with the part that it is long
    enough to reach, whose hole or thread holds it. Raises `DocumentError`."""
    if standard not in TABLES or size not in TABLES[standard].rows:
        raise located("hardware", f"{standard} has no size '{size}'")
    on, front = seat
    piece = document.parts[on].hardware
    host = piece.at if piece is not None else next(ref for ref in points if ref.part == on)
    if TABLES[standard].kind.long:
        host = next((ref for ref in points if ref.part == to), host)
    entry: dict[str, object] = {"standard": standard, "size": size, "at": str(host),
                                "through": [str(ref) for ref in points if ref != host]}  # fmt: skip
    entry["front_of" if front else "behind"] = on
    if to:
        entry["to"] = to
    word = TABLES[standard].kind.name.replace(" ", "-")
    name = free_name(document.tree["parts"], f"{host.part.rpartition('/')[2]}-{word}")
    return Made((Set(("parts", name), {"hardware": entry}),), ("parts", name))


def _fastened(
    document: Document, points: Sequence[PointRef], way: str, size: str, word: str, names: set[str] | None = None
) -> Made:
    """The pieces about an axis."""
    one = WAYS[way]
    if size not in sizes_of(way):
        raise located("size", f"{one.title} is not made in {size}; there are {', '.join(sizes_of(way))}")
    if any("/" in ref.part for ref in points):
        raise located(f"parts.{points[0].part}", "open the sub-assembly and pin this in its definition")
    order = sorted(points, key=lambda ref: _depth(document, ref))
    back, front = order[0], order[-1]
    host = back if way == "shoulder" else front
    through = [str(ref) for ref in order if ref != host]
    taken = set(document.tree["parts"]) if names is None else set(names)
    named: dict[str, str] = {}
    for piece, _, _ in one.pieces:
        named[piece] = free_name({*taken, *named.values()}, f"{word}-{piece}")
    changes: list[Change] = []
    last = ""
    for piece, standard, where in one.pieces:
        entry: dict[str, object] = {"standard": standard, "size": size, "at": str(host), "through": through}
        side = "front_of" if where in ("front", "over") else "behind"
        seat = last if where in ("over", "under") else (front if side == "front_of" else back).part
        entry[side] = seat
        if piece == one.long:
            entry["to"] = named[one.to] if one.to else back.part
        changes.append(Set(("parts", named[piece]), {"hardware": entry}))
        last = named[piece]
    changes += _drilled(document, order, way, size)
    return Made(tuple(changes), ("parts", named[one.long]))


def _drilled(document: Document, points: Sequence[PointRef], way: str, size: str) -> Iterator[Change]:
    """Holes where there are none; what a shoulder screw goes into gets that of its thread."""
    _, hole = _diameters(document, way, size)
    for number, ref in enumerate(points):
        part, entry = document.parts[ref.part], document.entry("parts", ref.part)
        if _hole(document, ref) or part.of or "shapes" not in entry:
            continue
        wide = hole
        if way == "shoulder" and number == 0:
            wide = (TABLES["ISO 7379"].rows[size]["thread"] - TABLES["ISO 7379"].rows[size]["pitch"]) * _per(document)
        cut = {"kind": "disc", "center": ref.point, "diameter": tidy(wide), "cut": True}
        yield Set((*document.home("parts", ref.part), "shapes"), [*entry["shapes"], cut])


def _per(document: Document) -> float:
    return 1.0 / MM_IN[document.units.length]


def _diameters(document: Document, way: str, size: str) -> tuple[float, float]:
    """Of what runs through, and of the hole for it (document lengths)."""
    table = TABLES[WAYS[way].sizes]
    shaft = table.rows[size][table.kind.shaft]
    usual = clearance_hole(size) if table.kind.shaft == "thread" else None
    return shaft * _per(document), (usual.medium if usual is not None else shaft) * _per(document)


def _hole(document: Document, ref: PointRef) -> float:
    """The least hole about a point of a part; 0 where it is solid."""
    part = document.parts[ref.part]
    found = [hole_in(slab.region.edges, complex(*part.place(ref.point))) for slab in part.slabs]
    return min((one for one in found if one is not None), default=0.0)


def _room(document: Document, ref: PointRef) -> float:
    """How far a point in the solid of a part is from the nearest edge; infinite where it lies in a hole."""
    part = document.parts[ref.part]
    at = complex(*part.place(ref.point))
    solid = [slab.region.edges for slab in part.slabs if hole_in(slab.region.edges, at) == 0.0]
    return min((nearest_edge(edges, at) for edges in solid), default=math.inf)


def _depth(document: Document, ref: PointRef) -> tuple[float, float]:
    """From where to where a part lies about a point."""
    part = document.parts[ref.part]
    hole = _hole(document, ref)
    found = faces(part, complex(*part.place(ref.point)), hole / 2, max(hole * 0.75, 1e-3) + 1e-3)
    return found or (part.slabs[0].low, part.slabs[-1].high)


def _bodies(document: Document) -> Mapping[str, str]:
    from ..clearance.pairs import rigid_bodies

    return rigid_bodies(document)


def _axes(document: Document, parts: Sequence[str]) -> Iterator[list[PointRef]]:
    """Places where named holes of two parts or more lie on one axis."""
    spots = [(_stands(document, name, point), PointRef(name, point)) for name in parts
             for point in document.parts[name].points]  # fmt: skip
    seen: set[PointRef] = set()
    for at, ref in spots:
        if ref in seen:
            continue
        here = [other for place, other in spots if abs(place - at) <= max(OFF, 1e-6 * abs(at))]
        seen.update(here)
        alone = {one.part: one for one in here}
        if len(alone) > 1 and any(_hole(document, one) for one in alone.values()):
            yield list(alone.values())


def _nearest(document: Document, parts: Sequence[str]) -> str:
    """The two points of different parts that come nearest to each other, in words."""
    spots = [(_stands(document, name, point), PointRef(name, point)) for name in parts
             for point in document.parts[name].points]  # fmt: skip
    pairs = [(abs(a - b), one, two) for k, (a, one) in enumerate(spots) for b, two in spots[k + 1 :]
             if one.part != two.part]  # fmt: skip
    if not pairs:
        return "they have no points; give each hole one"
    far, one, two = min(pairs, key=lambda pair: pair[0])
    return f"{one} and {two} are nearest, {far:.4g} {document.units.length} apart; name a hole in each and move one"


def _stands(document: Document, part: str, point: str) -> complex:
    x, y, angle = document.parts[part].pose
    return complex(x, y) + complex(*document.parts[part].points[point]) * complex(np.cos(angle), np.sin(angle))
