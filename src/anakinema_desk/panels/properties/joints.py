"""The cards of joints and of what ties them."""

import math
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QWidget

from anakinema.document.expressions import ExpressionError
from anakinema.document.model import Document, Measure
from anakinema.errors import DocumentError, Fault, listed
from anakinema.findings.moments import joint_now
from anakinema.formatting import format_short, in_document_units, shown
from anakinema.geometry.features import Feature, FeatureKind
from anakinema.joints import CONTACT, COUPLING_TYPES, JOINT_TYPES
from anakinema.joints.belt import belt_length, links
from anakinema.kinds import FieldForm
from anakinema.measures.dwelling import STILL
from anakinema.measures.touching import spans
from anakinema.measures.transmission import world
from anakinema.operations import (
    Grab,
    Made,
    exchanged,
    features,
    lifted_off,
    reattached,
    retyped,
    reversed_sign,
    types_for,
    zero_here,
)
from anakinema.studies.travel import limits_change

from ...theme.labels import Label
from .cams import cam
from .parts import whose

if TYPE_CHECKING:
    from anakinema.findings.series import Series
    from anakinema.kinematics.unilateral import Event

    from ...state.shown import Pose
    from .properties import Properties

MOST_EVENTS = 24
"""Events of a contact that its card lists."""
EVENTS = {"touch": "Touches", "part": "Parts", "drop": "Drops"}


def joint(properties: "Properties", document: Document, name: str) -> None:
    """Coordinate, behaviour, limits, and the fields of its type."""
    joint, place, entry = document.joints[name], document.home("joints", name), document.entry("joints", name)
    kind = JOINT_TYPES[joint.type]
    title = kind.title.upper() + ("" if kind.of_edges else " JOINT")
    properties.heading(title, str(place[-1]), f"{joint.a} to {joint.b}", place)
    whose(properties, document, name)
    properties.switch("Suspended", (*place, "suspended"), "Takes the joint out for the moment; nothing is lost")
    joins(properties, document, name)
    dimension = kind.coordinate_dimension(joint.values)
    if dimension is not None:
        grid = properties.section("COORDINATE")
        for label, what in (("now", "now"), ("velocity", "rate"), ("acceleration", "acceleration"), ("least", "low"),
                            ("greatest", "high"), ("travel", "travel")):  # fmt: skip
            properties.description(grid, label, partial(joint_text, properties, name, what))
        if properties.session.trying.ghost is not None:
            properties.description(grid, "from the ghost", partial(ghost_text, properties, name))
        grid = properties.section("BEHAVIOUR")
        properties.description(grid, "time ratio", lambda: behaviour_text(properties, name, "ratio"))
        properties.description(grid, "dwells", lambda: behaviour_text(properties, name, "dwells"))
        properties.description(grid, "advantage now", lambda: gain_text(properties, name))
        grid = properties.section("LIMITS")
        for key in ("min", "max", "rest"):
            properties.field(grid, key, (*place, "limits", key), optional=True)
        if joint.limits.rest is not None:
            properties.switch("Its rest pushes free parts", (*place, "limits", "pushes"),
                              "Like a detent: it moves what nothing else moves; else it gives way to them, like a pawl")
        for key in ("min", "max"):
            properties.button(f"{key} is where it stands now", partial(limit_here, properties, name, key))
        outside(properties, name)
        free(properties, name)
        if kind.has_zero:
            properties.button(
                "Zero is where it stands now", lambda: act(properties, zero_here, name, f"Zero of {name}")
            )
        properties.button("Count the other way", lambda: act(properties, reversed_sign, name, f"Sign of {name}"))
    if kind.of_edges:
        properties.button("Let it lift off: make it a contact", lambda: lift_off(properties, name))
    if kind.fields:
        grid = properties.section("FORM")
        fields = [field for field in kind.fields if field.name not in kind.one_of or field.name in entry]
        properties.form(grid, fields, place, entry)
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def joins(properties: "Properties", document: Document, name: str) -> None:
    """What it joins, and as what: each can be changed here."""
    joint = document.joints[name]
    grid = properties.section("JOINS")
    titles = {JOINT_TYPES[kind].title: kind for kind in types_for(document, name)}
    properties.pick(grid, "as", list(titles), partial(title_of, properties, name),
                    lambda title: make(properties, name, titles[title]))  # fmt: skip
    if joint.kind.of_edges:
        return
    for side, end in (("a", joint.a), ("b", joint.b)):
        part = document.parts[end.part]
        properties.pick(grid, f"of {part.name}", list(part.points), partial(point_at, properties, name, side),
                        partial(take_point, properties, name, side, end.part))  # fmt: skip
    properties.button("Join it to something else…", lambda: properties.tool_wanted.emit("rejoin"))
    if not joint.kind.slotted:
        properties.button("Exchange its sides", lambda: exchange(properties, name))


def make(properties: "Properties", name: str, kind: str) -> None:
    """Makes a joint one of another type."""
    text = f"Make {name} {JOINT_TYPES[kind].title.lower()}"
    change(properties, name, text, lambda document, start: retyped(document, name, kind, start))


def exchange(properties: "Properties", name: str) -> None:
    """Exchanges the sides of a joint."""
    text = f"Exchange the sides of {name}"
    change(properties, name, text, lambda document, start: exchanged(document, name, start))


def point_at(properties: "Properties", name: str, side: str) -> str:
    """The point at which a side of a joint is; empty where the joint is gone."""
    document = properties.session.document
    joint = document.joints.get(name) if document is not None else None
    return "" if joint is None else (joint.a if side == "a" else joint.b).point


def title_of(properties: "Properties", name: str) -> str:
    """What a joint is called by its type; empty where it is gone."""
    document = properties.session.document
    joint = document.joints.get(name) if document is not None else None
    return "" if joint is None else joint.kind.title


def take_point(properties: "Properties", name: str, side: str, part: str, point: str) -> None:
    """Takes a side of a joint to another point of its part."""
    change(properties, name, f"Join {name} to {part}.{point}",
           lambda document, _: reattached(document, name, side, at_point(document, part, point)))  # fmt: skip


def at_point(document: Document, part: str, point: str) -> Grab:
    """A named point of a part, as a feature that may be joined: the slot's or the hole's that is there."""
    at = complex(*document.parts[part].points[point])
    own = [feature for feature in features(document.parts[part]) if abs(feature.at - at) < 1e-9 and not feature.by_line]
    return Grab(part, own[0] if own else Feature(at, FeatureKind.POINT, point))


def change(
    properties: "Properties", name: str, text: str, made: "Callable[[Document, dict[str, Pose]], Made]"
) -> None:
    """Changes a joint; where nothing closes then, it is taken back, and what means nothing any more is said."""
    session, document = properties.session, properties.session.document
    if document is None or name not in document.joints:
        return
    try:
        found = made(document, session.posing.start_poses())
        faults = session.apply_if_it_closes(found.changes, text)
        if found.dropped and not faults:
            session.warned.emit(f"Taken away, for it means nothing now: {listed(found.dropped)}", ())
    except DocumentError as error:
        faults = error.faults
    if faults:
        session.faults_raised.emit(f"Not done: {text[0].lower()}{text[1:]}", faults)
        properties.refresh_live()


def outside(properties: "Properties", name: str) -> None:
    """What can be done where a joint starts outside its limits."""
    motion, document = properties.session.motion, properties.session.document
    if motion is None or document is None or motion.document is not document or motion.stop is None:
        return
    if motion.stop.reason != "limit" or motion.stop.joint != name or motion.stop.t > 0:
        return
    properties.note(motion.stop.text[0].upper() + motion.stop.text[1:] + ".")
    properties.button("Widen the limit to hold it", lambda: into_limits(properties, name, widen=True))
    if any(driver.joint == name and driver.start is not None for driver in document.drivers.values()):
        properties.button("Start at the limit instead", lambda: into_limits(properties, name, widen=False))
    else:
        properties.button("Move it to the limit", lambda: into_limits(properties, name, widen=False))


def into_limits(properties: "Properties", name: str, widen: bool) -> None:
    """Widens the limits of a joint to hold where it starts, or moves it to the nearer of them."""
    document, motion = properties.session.document, properties.session.motion
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
        faults = properties.session.edit(
            (*document.home("joints", name), "limits", key), value, f"Widen the limit of {name}"
        )
    else:
        driver = next((one for one in document.drivers.values() if one.joint == name and one.start is not None), None)
        if driver is None:
            properties.session.going.to_joints({name: bound})
            return
        value = round(in_document_units(bound, dimension, document.units), 9)
        faults = properties.session.edit(("drivers", driver.id, "from"), value, f"Start {driver.id} at the limit")
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def free(properties: "Properties", name: str) -> None:
    """The free travel, and making it the limits."""
    properties.button("Find its free travel", lambda: properties.session.find_travel(name))
    travel = properties.session.trying.travel
    if travel is None or travel.joint != name:
        return
    properties.note(f"{travel.low.text[0].upper()}{travel.low.text[1:]}.")
    properties.note(f"{travel.high.text[0].upper()}{travel.high.text[1:]}.")
    row = QWidget()
    line = QHBoxLayout(row)
    line.setContentsMargins(0, 0, 0, 0)
    margin = QLineEdit()
    margin.setPlaceholderText("0")
    margin.setFixedWidth(64)
    margin.setAccessibleName("Margin at both ends")
    line.addWidget(Label("margin"))
    line.addWidget(margin)
    line.addStretch(1)
    properties.rows.addWidget(row)
    properties.button("Make these the limits", lambda: take_travel(properties, name, margin.text()))


def take_travel(properties: "Properties", name: str, margin: str) -> None:
    """Makes the free travel that was found the limits of its joint."""
    document, travel = properties.session.document, properties.session.trying.travel
    if document is None or travel is None or travel.joint != name:
        return
    try:
        joint = document.joints[name]
        dimension = JOINT_TYPES[joint.type].coordinate_dimension(joint.values) or "length"
        room = document.worth(margin or "0", dimension, name)
        faults = properties.session.apply([limits_change(document, travel, room)], f"Limits of {name}")
    except ExpressionError as error:
        faults = (Fault("margin", str(error)),)
    except DocumentError as error:
        faults = error.faults
    if faults:
        properties.session.faults_raised.emit("Not limited", faults)


def act(properties: "Properties", operation: "Callable[..., Made]", name: str, text: str) -> None:
    """Changes how a joint counts; what uses it follows."""
    document, motion = properties.session.document, properties.session.motion
    if document is None or motion is None or name not in motion.system.coordinates:
        return
    try:
        here = float(properties.session.posing.coordinates()[motion.system.coordinates.index(name)])
        faults = properties.session.apply(operation(document, name, here).changes, text)
    except DocumentError as error:
        faults = error.faults
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def lift_off(properties: "Properties", name: str) -> None:
    """Makes a contact of a joint that holds edges together."""
    document = properties.session.document
    if document is None:
        return
    try:
        faults = properties.session.apply(lifted_off(document, name).changes, f"Let {name} lift off")
    except DocumentError as error:
        faults = error.faults
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def limit_here(properties: "Properties", name: str, key: str) -> None:
    """Makes where a joint stands now one of its limits."""
    document, motion = properties.session.document, properties.session.motion
    if document is None or motion is None or name not in motion.system.coordinates:
        return
    column = motion.system.coordinates.index(name)
    dimension = motion.system.coordinates.dimension(column)
    here = float(properties.session.posing.coordinates()[column])
    value = round(in_document_units(here, dimension, document.units), 6)
    if dimension.turns and document.is_mirrored(name):  # its definition counts the other way
        value, key = -value, "max" if key == "min" else "min"
    place = (*document.home("joints", name), "limits", key)
    faults = properties.session.edit(place, value, f"Limit {name}")
    if faults:
        properties.session.faults_raised.emit("Not limited", faults)


def coupling(properties: "Properties", document: Document, name: str) -> None:
    """The fields of its type, and the ratio that they give."""
    coupling, place = document.couplings[name], document.home("joints", name)
    kind = COUPLING_TYPES[coupling.type]
    properties.heading(kind.title.upper(), str(place[-1]), f"ties {coupling.a} to {coupling.b}", place)
    whose(properties, document, name)
    properties.switch("Suspended", (*place, "suspended"), "Takes the coupling out for the moment; nothing is lost")
    grid = (cam if kind.by_program else by_ratio)(properties, document, name)
    for joint in (coupling.a, coupling.b):
        properties.description(grid, f"{joint} now", partial(joint_text, properties, joint, "now"))
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def by_ratio(properties: "Properties", document: Document, name: str) -> QGridLayout:
    """The fields of one with a ratio; gives the grid of what was found."""
    coupling, place, entry = document.couplings[name], document.home("joints", name), document.entry("joints", name)
    grid = properties.section("FORM")
    for field in coupling.kind.fields:
        there = (*place, field.name)
        if field.form is FieldForm.PAIR and field.name in entry:
            for i, joint in enumerate((coupling.a, coupling.b)):
                properties.field(grid, f"{field.caption} at {joint}", (*there, i))
        elif field.form is FieldForm.PART:
            properties.choice(grid, field.caption, there, ("", *document.parts))
        elif field.form is not FieldForm.PAIR:
            properties.form(grid, [field], place, entry)
    grid = properties.section("FOUND")
    properties.description(grid, "ratio", lambda: ratio_text(properties, name))
    findings = properties.last()
    if findings is not None and name in findings.gears:
        for label, what in (("contact ratio", "contact_ratio"), ("axes apart", "distance"), ("without play", "tight"),
                            ("backlash", "backlash")):  # fmt: skip
            properties.description(grid, label, partial(gear_text, properties, name, what))
    if coupling.kind.pulleys(coupling.given) is not None:
        properties.description(grid, "belt length", lambda: belt_text(properties, name))
        if "pitch" in coupling.given:
            properties.description(grid, "links", lambda: belt_text(properties, name, "links"))
            properties.description(grid, "whole at", lambda: belt_text(properties, name, "whole"))
    return grid


def contact(properties: "Properties", document: Document, name: str) -> None:
    """The two sides, how much of the motion they touch, and when they come together and part."""
    one, place = document.contacts[name], document.home("joints", name)
    properties.heading(CONTACT.title.upper(), str(place[-1]), f"{one.a} and {one.b} never pass", place)
    whose(properties, document, name)
    properties.switch("Suspended", (*place, "suspended"), "Lets them pass each other for the moment; nothing is lost")
    grid = properties.section("SIDES")
    names = (*document.parts, *document.groups, *document.uses)
    for side in "ab":
        properties.choice(grid, side, (*place, side), names)
    grid = properties.section("FOUND")
    properties.description(grid, "touches", lambda: touching_text(properties, name))
    events = events_of(properties, name)
    for event in events[:MOST_EVENTS]:
        properties.button(event_text(properties, event), partial(properties.session.go, event.t))
    if len(events) > MOST_EVENTS:
        properties.note(f"and {len(events) - MOST_EVENTS} more, which the JSON of a run lists")
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def events_of(properties: "Properties", name: str) -> "list[Event]":
    """When a contact touches, parts and drops in the motion that is shown."""
    motion = properties.session.motion
    return [event for event in motion.path.events if event.owner == name] if motion is not None else []


def event_text(properties: "Properties", event: "Event") -> str:
    """What happens, and where the first driver stands then."""
    motion = properties.session.motion
    value = motion.driver_value(event.t) if motion is not None else None
    if motion is None or value is None:
        return f"{EVENTS[event.kind]}"
    units = motion.document.units
    return f"{EVENTS[event.kind]} at {shown(value, motion.driver_dimension, units)}, {shown(event.t, 'time', units, 3)}"


def touching_text(properties: "Properties", name: str) -> str:
    """The share of the motion in which a contact touches."""
    motion = properties.session.motion
    if motion is None or not motion.path.t1:
        return "–"
    share = sum(stop - start for start, stop in spans(motion, name)) / motion.path.t1
    return f"{share:.1%} of the motion"


def ratio_text(properties: "Properties", name: str) -> str:
    """How the one joint follows the other."""
    document = properties.session.document
    coupling = document.couplings.get(name) if document is not None else None
    if coupling is None:
        return "–"
    ratio = f"{coupling.ratio:.6g}".replace("-", "−")
    unit = f" {document.units.length} for each rad" if coupling.kind.length_for_turn and document is not None else ""
    return f"{coupling.b} = {ratio}{unit} × {coupling.a}"


def gear_text(properties: "Properties", name: str, what: str) -> str:
    """One thing that was found of two wheels in mesh, in words."""
    findings, document = properties.last(), properties.session.document
    found = findings.gears.get(name) if findings is not None else None
    if found is None or found.mesh is None or document is None:
        return "–"
    value = float(getattr(found.mesh, what))
    return f"{value:.3f}" if what == "contact_ratio" else shown(value, "length", document.units, 3)


def belt_text(properties: "Properties", name: str, what: str = "length") -> str:
    """Length of the belt where its pulleys stand now, in links of its pitch too; and how far apart the axes are for it
    to be a whole number of these."""
    document, motion = properties.session.document, properties.session.motion
    coupling = document.couplings.get(name) if document is not None else None
    pair = coupling.kind.pulleys(coupling.given) if coupling is not None else None
    if document is None or motion is None or coupling is None or pair is None:
        return "–"
    q = properties.session.posing.positions()[None]
    one, two = (world(motion, q, document.joints[joint].b)[0] for joint in (coupling.a, coupling.b))
    crossed, pitch, teeth = (coupling.given.get(key) for key in ("run", "pitch", "teeth"))
    try:
        if isinstance(pitch, float) and isinstance(teeth, tuple):
            found = links(abs(two - one), pitch, teeth, crossed == "crossed")
            if what == "whole":
                return f"{shown(found.distance, 'length', document.units, 3)} apart, {found.whole} links"
            length = found.count if what == "links" else found.count * pitch
            return f"{found.count:.3f}" if what == "links" else shown(length, "length", document.units, 2)
        length = belt_length(abs(two - one), *pair, crossed=crossed == "crossed")
    except ValueError as error:
        return str(error)
    return shown(length, "length", document.units, 2)


def joint_text(properties: "Properties", name: str, what: str) -> str:
    """A joint's coordinate now with its rates, its least or greatest value, or its travel."""
    document, motion = properties.session.document, properties.session.motion
    if document is None:
        return "–"
    if what == "now":
        if motion is None or name not in motion.system.coordinates:
            return "–"
        column = motion.system.coordinates.index(name)
        value = float(properties.session.posing.coordinates()[column])
        return shown(value, motion.system.coordinates.dimension(column), document.units)
    if what in ("rate", "acceleration"):
        if motion is None or name not in motion.system.coordinates or properties.session.posing.posed is not None:
            return "–"
        dimension = motion.system.coordinates.dimension(motion.system.coordinates.index(name)).rate
        _, rate, acceleration = joint_now(motion, name, properties.session.time)
        value, dimension = (rate, dimension) if what == "rate" else (acceleration, dimension.rate)
        return shown(value, dimension, document.units, 2)
    found = series(properties, name)
    if found is None:
        return "–"
    value = {"low": found.low, "high": found.high, "travel": found.high - found.low}[what]
    return shown(value, found.dimension, document.units)


def ghost_text(properties: "Properties", name: str) -> str:
    """How far a joint is from where it stands in the ghost."""
    ghost, motion, document = properties.session.trying.ghost, properties.session.motion, properties.session.document
    if ghost is None or motion is None or document is None or name not in ghost.ids:
        return "–"
    if name not in motion.system.coordinates:
        return "–"
    column = motion.system.coordinates.index(name)
    now = float(properties.session.posing.coordinates()[column])
    off = now - float(ghost.coordinates[ghost.ids.index(name)])
    return ("+" if off > 0 else "") + shown(off, motion.system.coordinates.dimension(column), document.units, 3)


def series(properties: "Properties", joint: str) -> "Series | None":
    """What was found of a joint's coordinate."""
    findings = properties.last()
    series = findings.series if findings is not None else ()
    return next((found for found in series if found.place == f"joints.{joint}"), None)


def behaviour_text(properties: "Properties", name: str, what: str) -> str:
    """Time ratio or dwells of a joint."""
    findings, document = properties.last(), properties.session.document
    found = findings.behaviours.get(name) if findings is not None else None
    if found is None or findings is None or document is None:
        return "–"
    if what == "ratio":
        return "–" if found.time_ratio is None else f"{found.time_ratio:.4g} : 1"
    motion, dwells = findings.motion, []
    for dwell in found.dwells:
        ends = (motion.driver_value(t) or 0.0 for t in (dwell.start, dwell.stop))
        dwells.append(" … ".join(shown(end, motion.driver_dimension, document.units, 1) for end in ends))
    still = f"(within {100 * STILL:g} % of its travel)"
    return "\n".join([*(dwells or ["none"]), still])


def gain_text(properties: "Properties", name: str) -> str:
    """Mechanical advantage from the first driver to this joint, where the play head is."""
    from anakinema.findings.measuring import dimension_of
    from anakinema.measures.force import moved_by_driver

    motion = properties.session.motion
    if motion is None or not motion.drive.drivers or properties.session.posing.posed is not None:
        return "–"
    ids = motion.system.coordinates.ids
    if name not in motion.system.coordinates:
        return "–"
    first = motion.drive.drivers[0]
    moved = float(moved_by_driver(motion, name, np.array([properties.session.time]))[0])
    units, measure = motion.document.units, Measure("", "mechanical_advantage", (), (), name)
    if not abs(moved) > 1e-9 * float(motion.lengths[ids.index(name)]):
        return "without bound: it stands still"
    gain = format_short(1.0 / moved, dimension_of(measure, motion.document), units) if math.isfinite(moved) else "0"
    return f"{gain}\noutput per input ({first.id})"


def outline(properties: "Properties", name: str) -> str:
    """What the rows of a joint's card depend on besides its keys."""
    travel, motion = properties.session.trying.travel, properties.session.motion
    found = id(travel) if travel is not None and travel.joint == name else 0
    stop = motion.stop if motion is not None else None
    beyond = stop is not None and stop.joint == name and stop.t == 0.0
    return f"{found}{beyond}"
