"""The cards of joints and of what ties them."""

import math
from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QWidget

from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document
from anakinema.errors import DocumentError, Fault
from anakinema.findings.transmission import world
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.joints.belt import belt_length
from anakinema.kinds import Form
from anakinema.operations import Made, reversed_sign, zero_here
from anakinema.studies.travel import limits_change
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
        outside(card, name)
        free(card, name)
        if kind.name == "revolute":
            card.button("Zero is where it stands now", lambda: act(card, zero_here, name, f"Zero of {name}"))
        card.button("Count the other way", lambda: act(card, reversed_sign, name, f"Sign of {name}"))
    if kind.fields:
        grid = card.section("FORM")
        one_of_two = kind.name == "pin-slot"
        fields = [field for field in kind.fields if not one_of_two or field.name in entry]
        card.form(grid, fields, place, entry)
    card.text(card.section("NOTE"), "why", (*place, "note"))


def outside(card: "Card", name: str) -> None:
    """What can be done where a joint starts outside its limits."""
    motion, document = card.session.motion, card.session.document
    if motion is None or document is None or motion.document is not document or motion.stop is None:
        return
    if motion.stop.reason != "limit" or motion.stop.joint != name or motion.stop.t > 0:
        return
    card.note(motion.stop.text[0].upper() + motion.stop.text[1:] + ".")
    card.button("Widen the limit to hold it", lambda: into_limits(card, name, widen=True))
    if any(driver.joint == name and driver.start is not None for driver in document.drivers.values()):
        card.button("Start at the limit instead", lambda: into_limits(card, name, widen=False))
    else:
        card.button("Move it to the limit", lambda: into_limits(card, name, widen=False))


def into_limits(card: "Card", name: str, widen: bool) -> None:
    """Widens the limits of a joint to hold where it starts, or moves it to the nearer of them."""
    document, motion = card.session.document, card.session.motion
    if document is None or motion is None:
        return
    column = motion.system.coordinates.index(name)
    dimension, limits = motion.system.coordinates.dimension(column), document.joints[name].limits
    here = float(motion.at(np.zeros(1)).coordinates[0, column])
    key = "min" if limits.min is not None and here < limits.min else "max"
    bound = limits.min if key == "min" else limits.max
    if bound is None:
        return
    if widen:
        value = round(in_document_units(here, dimension, document.units), 9)
        faults = card.session.edit((*document.home("joints", name), "limits", key), value, f"Widen the limit of {name}")
    else:
        driver = next((one for one in document.drivers.values() if one.joint == name and one.start is not None), None)
        if driver is None:
            card.session.going.to_joints({name: bound})
            return
        value = round(in_document_units(bound, dimension, document.units), 9)
        faults = card.session.edit(("drivers", driver.id, "from"), value, f"Start {driver.id} at the limit")
    if faults:
        card.session.faults_raised.emit("Not changed", faults)


def free(card: "Card", name: str) -> None:
    """The free travel, and making it the limits."""
    card.button("Find its free travel", lambda: card.session.find_travel(name))
    travel = card.session.trying.travel
    if travel is None or travel.joint != name:
        return
    card.note(f"{travel.low.text[0].upper()}{travel.low.text[1:]}.")
    card.note(f"{travel.high.text[0].upper()}{travel.high.text[1:]}.")
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    margin = QLineEdit()
    margin.setPlaceholderText("0")
    margin.setFixedWidth(64)
    margin.setAccessibleName("Margin at both ends")
    line.addWidget(QLabel("margin"))
    line.addWidget(margin)
    line.addStretch(1)
    card.rows.addWidget(row)
    card.button("Make these the limits", lambda: take_travel(card, name, margin.text()))


def take_travel(card: "Card", name: str, margin: str) -> None:
    """Makes the free travel that was found the limits of its joint."""
    document, travel = card.session.document, card.session.trying.travel
    if document is None or travel is None or travel.joint != name:
        return
    try:
        joint = document.joints[name]
        dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or "length"
        room = document.worth(margin or "0", dimension)
        faults = card.session.apply([limits_change(document, travel, room)], f"Limits of {name}")
    except ExpressionError as error:
        faults = (Fault("margin", str(error)),)
    except DocumentError as error:
        faults = error.faults
    if faults:
        card.session.faults_raised.emit("Not limited", faults)


def act(card: "Card", operation: "Callable[..., Made]", name: str, text: str) -> None:
    """Changes how a joint counts; what uses it follows."""
    document, motion = card.session.document, card.session.motion
    if document is None or motion is None or name not in motion.system.coordinates:
        return
    try:
        here = float(card.session.coordinates()[motion.system.coordinates.index(name)])
        faults = card.session.apply(operation(document, name, here).changes, text)
    except DocumentError as error:
        faults = error.faults
    if faults:
        card.session.faults_raised.emit("Not changed", faults)


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
    if math.isnan(gain):
        return "none: the driver rests"
    return f"{gain:.4g}" if gain < 1e6 else "without bound: it stands still"


def outline(card: "Card", name: str) -> str:
    """What the rows of a joint's card depend on besides its keys."""
    travel, motion = card.session.trying.travel, card.session.motion
    found = id(travel) if travel is not None and travel.joint == name else 0
    stop = motion.stop if motion is not None else None
    beyond = stop is not None and stop.joint == name and stop.t == 0.0
    return f"{found}{beyond}"
