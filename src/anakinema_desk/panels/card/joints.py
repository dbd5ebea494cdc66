"""The cards of joints and of what ties them."""

from typing import TYPE_CHECKING

import numpy as np

from anakinema.document.model import Document
from anakinema.findings.transmission import world
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.joints.belt import belt_length
from anakinema.kinds import Form
from anakinema.words import in_document_units, shown

from .parts import whose

if TYPE_CHECKING:
    from anakinema.findings.series import Series

    from .card import Card


def joint(card: "Card", document: Document, name: str) -> None:
    """Coordinate, behaviour, limits, and the fields of its type."""
    joint, place, entry = document.joints[name], document.home("joints", name), document.entry("joints", name)
    kind = JOINT_TYPES[joint.type]
    title = kind.title.upper() + ("" if kind.of_edges else " JOINT")
    card.heading(title, str(place[-1]), f"{joint.a} to {joint.b}", place)
    whose(card, document, name)
    card.switch("Suspended", (*place, "suspended"), "Takes the joint out for the moment; nothing is lost")
    dimension = kind.coordinate_dimension(joint.values)
    if dimension is not None:
        grid = card.section("COORDINATE")
        for label, what in (("now", "now"), ("least", "low"), ("greatest", "high"), ("travel", "travel")):
            card.told(grid, label, lambda what=what: joint_text(card, name, what))
        grid = card.section("BEHAVIOUR")
        card.told(grid, "time ratio", lambda: behaviour_text(card, name, "ratio"))
        card.told(grid, "dwells", lambda: behaviour_text(card, name, "dwells"))
        card.told(grid, "gain now", lambda: gain_text(card, name))
        grid = card.section("LIMITS")
        for key in ("min", "max", "rest"):
            card.field(grid, key, (*place, "limits", key), optional=True)
        for key in ("min", "max"):
            card.button(f"{key} is where it stands now", lambda key=key: limit_here(card, name, key))
    if kind.fields:
        grid = card.section("FORM")
        one_of_two = kind.name == "pin-slot"
        fields = [field for field in kind.fields if not one_of_two or field.name in entry]
        card.form(grid, fields, place, entry)
    card.text(card.section("NOTE"), "why", (*place, "note"))


def limit_here(card: "Card", name: str, key: str) -> None:
    """Makes where a joint stands now one of its limits."""
    document, motion = card.session.document, card.session.motion
    if document is None or motion is None or name not in motion.system.coordinates:
        return
    column = motion.system.coordinates.index(name)
    dimension = motion.system.coordinates.dimension(column)
    value = round(in_document_units(float(card.session.coordinates()[column]), dimension, document.units), 6)
    if dimension.turns and document.turned_over(name):  # its definition counts the other way
        value, key = -value, "max" if key == "min" else "min"
    place = (*document.home("joints", name), "limits", key)
    faults = card.session.edit(place, value, f"Limit {name}")
    if faults:
        card.session.faults_raised.emit("Not limited", faults)


def coupling(card: "Card", document: Document, name: str) -> None:
    """The fields of its type, and the ratio that they give."""
    coupling, place, entry = document.couplings[name], document.home("joints", name), document.entry("joints", name)
    kind = COUPLING_TYPES[coupling.type]
    card.heading(kind.title.upper(), str(place[-1]), f"ties {coupling.a} to {coupling.b}", place)
    whose(card, document, name)
    card.switch("Suspended", (*place, "suspended"), "Takes the coupling out for the moment; nothing is lost")
    grid = card.section("FORM")
    for field in kind.fields:
        there = (*place, field.name)
        if field.form is Form.PAIR and field.name in entry:
            for i, joint in enumerate((coupling.a, coupling.b)):
                card.field(grid, f"{field.caption} at {joint}", (*there, i))
        elif field.form is Form.PART:
            card.choice(grid, field.caption, there, ("", *document.parts))
        elif field.form is not Form.PAIR:
            card.form(grid, [field], place, entry)
    grid = card.section("FOUND")
    card.told(grid, "ratio", lambda: ratio_text(card, name))
    if coupling.type == "belt" and "diameters" in coupling.given:
        card.told(grid, "belt length", lambda: belt_text(card, name))
    for joint in (coupling.a, coupling.b):
        card.told(grid, f"{joint} now", lambda joint=joint: joint_text(card, joint, "now"))
    card.text(card.section("NOTE"), "why", (*place, "note"))


def ratio_text(card: "Card", name: str) -> str:
    """How the one joint follows the other."""
    document = card.session.document
    coupling = document.couplings.get(name) if document is not None else None
    if coupling is None:
        return "–"
    ratio = f"{coupling.ratio:.6g}".replace("-", "−")
    unit = f" {document.units.length} for each rad" if coupling.type == "rack" and document is not None else ""
    return f"{coupling.b} = {ratio}{unit} × {coupling.a}"


def belt_text(card: "Card", name: str) -> str:
    """Length of the belt where its pulleys stand now."""
    document, motion = card.session.document, card.session.motion
    coupling = document.couplings.get(name) if document is not None else None
    pair = coupling.given.get("diameters") if coupling is not None else None
    if document is None or motion is None or coupling is None or not isinstance(pair, tuple):
        return "–"
    q = card.session.positions()[None]
    one, two = (world(motion, q, document.joints[joint].b)[0] for joint in (coupling.a, coupling.b))
    try:
        length = belt_length(abs(two - one), *pair, crossed=coupling.given.get("run") == "crossed")
    except ValueError as error:
        return str(error)
    return shown(length, "length", document.units, 2)


def joint_text(card: "Card", name: str, what: str) -> str:
    """A joint's coordinate now, its least or greatest value, or its travel."""
    document, motion = card.session.document, card.session.motion
    if document is None:
        return "–"
    if what == "now":
        if motion is None or name not in motion.system.coordinates:
            return "–"
        column = motion.system.coordinates.index(name)
        value = float(card.session.coordinates()[column])
        return shown(value, motion.system.coordinates.dimension(column), document.units)
    found = series(card, name)
    if found is None:
        return "–"
    value = {"low": found.low, "high": found.high, "travel": found.high - found.low}[what]
    return shown(value, found.dimension, document.units)


def series(card: "Card", joint: str) -> "Series | None":
    """What was found of a joint's coordinate."""
    findings = card.last()
    series = findings.series if findings is not None else ()
    return next((found for found in series if found.place == f"joints.{joint}"), None)


def behaviour_text(card: "Card", name: str, what: str) -> str:
    """Time ratio or dwells of a joint."""
    findings, document = card.last(), card.session.document
    found = findings.behaviours.get(name) if findings is not None else None
    if found is None or findings is None or document is None:
        return "–"
    if what == "ratio":
        return "–" if found.time_ratio is None else f"{found.time_ratio:.4g} : 1"
    motion, told = findings.motion, []
    for dwell in found.dwells:
        ends = (motion.driver_value(t) or 0.0 for t in (dwell.start, dwell.stop))
        told.append(" … ".join(shown(end, motion.driver_dimension, document.units, 1) for end in ends))
    return "\n".join(told) or "none"


def gain_text(card: "Card", name: str) -> str:
    """Mechanical advantage from the first driver to this joint, where the play head is."""
    from anakinema.findings.behaviour import mechanical_advantage

    motion = card.session.motion
    if motion is None or not motion.drive.drivers or card.session.posed is not None:
        return "–"
    ids = motion.system.coordinates.ids
    if name not in motion.system.coordinates:
        return "–"
    state = motion.at(np.array([card.session.time]))
    gain = float(mechanical_advantage(state, ids.index(motion.drive.drivers[0].joint), ids.index(name))[0])
    return f"{gain:.4g}" if gain < 1e6 else "without bound: it stands still"
