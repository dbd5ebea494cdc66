"""The card of a cam: program, follower, where it is lowest, and what is to be said of it."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QGridLayout

from anakinema.document import Change, Remove, Set
from anakinema.document.changes import lookup
from anakinema.document.model import Coupling, Document
from anakinema.findings.cams import jumps_text
from anakinema.formatting import shown
from anakinema.joints.cam import FOLLOWER_FIELDS, NEEDED, SUITS
from anakinema.kinds import Dimension

if TYPE_CHECKING:
    from anakinema.cams.judgement import CamJudgement

    from .properties import Properties

FIRST = {"radius": 5, "direction": 0, "width": 20}
"""What a follower of another kind is given at first."""


def cam(properties: "Properties", document: Document, name: str) -> QGridLayout:
    """The fields of a cam's form, and of what touches it; gives the grid of what was found."""
    coupling, place, entry = document.couplings[name], document.home("joints", name), document.entry("joints", name)
    grid = properties.section("FORM")
    properties.choice(grid, "program", (*place, "program"), tuple(document.programs) or ("",))
    properties.field(grid, "begins at", (*place, "start"), optional=True,
                     hint="Coordinate of the shaft at which the program begins")  # fmt: skip
    if "base" in entry:
        properties.field(grid, "least radius", (*place, "base"), hint="Of the profile; the follower stands as it needs")
    else:
        properties.field(grid, "lowest at", (*place, "low"), optional=True,
                         hint="Coordinate of the follower where the program is 0; empty: as it is placed")  # fmt: skip
    _sized_by(properties, coupling, place)
    if coupling.cam is not None:
        properties.button("Open the cam desk", properties.desk_wanted.emit)
    grid = properties.section("FOLLOWER")
    given = entry.get("follower")
    if given is None:
        properties.note("Nothing is said of what touches the cam, so that it has no profile yet")
        properties.button("Give it a roller", partial(_first_follower, properties, document, name))
        return properties.section("FOUND")
    there = (*place, "follower")
    properties.pick(grid, "touches by", FOLLOWER_FIELDS[0].words, lambda: str(_now(properties, (*there, "kind"))),
                    partial(_other_kind, properties, there))  # fmt: skip
    part = str(given.get("at", "")).rpartition(".")[0]
    if part in document.parts:
        properties.choice(grid, "at", (*there, "at"), tuple(f"{part}.{point}" for point in document.parts[part].points))
    for field in FOLLOWER_FIELDS[2:]:
        if field.name in SUITS[given["kind"]]:
            optional = field.name not in NEEDED.get(given["kind"], ())
            properties.field(grid, field.caption, (*there, field.name), hint=field.description, optional=optional)
    grid = properties.section("FOUND")
    for label, what in (("least radius", "base"), ("rises by", "lift"), ("pressure angle", "pressure"),
                        ("bulges with", "convex"), ("hollow with", "hollow"), ("undercut", "undercut"),
                        ("face needed", "face"), ("slides at", "sliding"), ("jumps", "jumps")):  # fmt: skip
        properties.description(grid, label, partial(cam_text, properties, name, what))
    return grid


def _now(properties: "Properties", place: tuple[str, ...]) -> object:
    document = properties.session.document
    return lookup(document.tree, place, "") if document is not None else ""


def _sized_by(properties: "Properties", coupling: Coupling, place: tuple[str, ...]) -> None:
    """Whether the least radius is given, or where the follower is lowest."""
    if coupling.cam is None or coupling.cam.shaft.slides:
        return
    by_radius = coupling.base is not None
    radius, low = coupling.cam.least_radius(), coupling.cam.low
    document = properties.session.document
    assert document is not None
    lifts = Dimension.ANGLE if document.joints[coupling.b].kind.pin else Dimension.LENGTH

    def turn() -> None:
        changes: list[Change]
        if by_radius:
            value = low if lifts is Dimension.LENGTH else f"{low!r} rad"
            changes = [Remove((*place, "base")), Set((*place, "low"), value)]
        else:
            known = lookup(document.tree, (*place, "low"), None) is not None
            changes = [*([Remove((*place, "low"))] if known else []), Set((*place, "base"), round(radius, 6))]
        faults = properties.session.apply(changes, "How a cam is sized")
        if faults:
            properties.session.faults_raised.emit("Not changed", faults)

    properties.button("Give where it is lowest instead" if by_radius else "Give its least radius instead", turn)


def _first_follower(properties: "Properties", document: Document, name: str) -> None:
    coupling = document.couplings[name]
    ref = document.joints[coupling.b].b
    place = (*document.home("joints", name), "follower")
    entry = {"kind": "roller", "at": f"{ref.part}.{ref.point}", "radius": FIRST["radius"]}
    faults = properties.session.apply([Set(place, entry)], f"Follower of {name}")
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def _other_kind(properties: "Properties", place: tuple[str, ...], kind: str) -> None:
    """Another kind of follower: what both have stays."""
    document = properties.session.document
    if document is None:
        return
    entry = lookup(document.tree, place, {})
    kept = {key: value for key, value in entry.items() if key in ("at", *SUITS[kind])}
    new = {"kind": kind, **{key: FIRST[key] for key in NEEDED.get(kind, ()) if key not in kept}, **kept}
    faults = properties.session.apply([Set(place, new)], "Kind of follower")
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def cam_text(properties: "Properties", name: str, what: str) -> str:
    """One thing that was found of a cam, in words."""
    findings, document = properties.last(), properties.session.document
    found = findings.cams.get(name) if findings is not None else None
    if found is None or document is None or name not in document.couplings:
        return "–"
    return told(document, document.couplings[name], found, what)


def told(document: Document, coupling: Coupling, found: "CamJudgement", what: str) -> str:
    """The same of what is to be said."""
    units = document.units
    turns = Dimension.LENGTH if document.joints[coupling.a].kind.straight else Dimension.ANGLE

    def at(value: float) -> str:
        return shown(value, turns, units, 1)

    def long(value: float) -> str:
        return shown(value, Dimension.LENGTH, units, 2)

    match what:
        case "base":
            return long(found.base)
        case "lift":
            swings = document.joints[coupling.b].kind.pin
            return shown(found.lift, Dimension.ANGLE if swings else Dimension.LENGTH, units, 2)
        case "pressure":
            return f"{shown(found.pressure.value, Dimension.ANGLE, units, 1)} at {at(found.pressure.at)}"
        case "convex" | "hollow":
            extreme = found.convex if what == "convex" else found.hollow
            if extreme.value == float("inf"):
                return "nowhere"
            return f"radius {long(extreme.value)} at {at(extreme.at)}"
        case "undercut":
            return ", ".join(f"{at(one)} to {at(two)}" for one, two in found.undercut[:3]) or "nowhere"
        case "face":
            return "–" if found.face_width is None else long(found.face_width)
        case "jumps":
            return jumps_text(document, coupling)
        case _:
            if not found.sliding.value:
                return "rolls"
            return f"{long(found.sliding.value)} for each rad"
