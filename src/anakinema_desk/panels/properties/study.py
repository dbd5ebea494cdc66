"""The cards of drivers, traces, checks, measures and positions."""

import math
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtWidgets import QLabel

from anakinema.document import Change, Remove, Set
from anakinema.document.changes import lookup
from anakinema.document.model import Document
from anakinema.errors import Fault
from anakinema.findings.measuring import dimension_of, remark_on
from anakinema.formats.results import told_digits, wanted_text
from anakinema.formatting import describe_measure, shown
from anakinema.joints import JOINT_TYPES
from anakinema.kinds import FieldForm
from anakinema.laws import STANDARD
from anakinema.measures import MEASURE_TYPES
from anakinema.operations import new_program

if TYPE_CHECKING:
    from anakinema.findings import Verdict

    from .properties import Properties

OUTCOMES = {"PASS": "passes", "FAIL": "fails", "UNPROVEN": "unproven", "NOT_JUDGED": "not judged"}


ON_CARD = (FieldForm.NUMBER, FieldForm.AMOUNT, FieldForm.WORD, FieldForm.EXPRESSION, FieldForm.FLAG, FieldForm.DRIVER)
"""What of a measure is changed on a card; what it is taken of stays."""
LAW_HINTS = tuple(law.description for law in STANDARD.values())
WAYS = ("to a value", "by a program", "following another driver")
"""How a driver can be told what to do."""


def driver(properties: "Properties", document: Document, name: str) -> None:
    """Range, law, time; or the program, or what it follows."""
    one, place, entry = document.drivers[name], ("drivers", name), document.tree["drivers"][name]
    properties.heading("DRIVER", name, f"drives joint {one.joint}", place)
    grid = properties.section("MOVES")
    way = WAYS[1] if one.program is not None else WAYS[2] if one.follows else WAYS[0]
    properties.pick(grid, "how", WAYS, lambda: way, lambda word: drive_so(properties, name, WAYS.index(word)))
    if one.follows:
        properties.text(grid, "as", (*place, "follows"), "An expression of other drivers: 0.5*turn, 90 deg - lift")
    else:
        properties.field(
            grid, "from", (*place, "from"), optional=True, hint="Where it starts; empty: where it is placed"
        )
    if one.program is not None:
        properties.pick(
            grid,
            "program",
            tuple(p.id for p in document.programs.values() if p.over == "time"),
            lambda: said(properties, (*place, "program")),
            lambda word: properties.change((*place, "program"), word),
        )
        properties.button(
            "Show the program",
            lambda: properties.session.selection.select(f"programs.{said(properties, (*place, 'program'))}"),
        )
    elif not one.follows:
        properties.field(grid, "to", (*place, "to"))
        properties.choice(grid, "law", (*place, "law"), tuple(STANDARD), LAW_HINTS)
    jolts = properties.note("")
    properties.live.append(lambda: say_if_any(jolts, jolts_text(properties, name)))
    properties.field(grid, "steps", (*place, "steps"))
    properties.switch("Steady running", (*place, "running"),
                      "What is shown is a piece of steady running: it neither starts nor ends with a jolt")
    if one.follows:
        return
    grid = properties.section("TIME")
    if one.program is None:
        key = "duration" if "duration" in entry else "rate"
        properties.field(grid, key, (*place, key), optional=True,
                   hint="rate: the mean speed of its way" if key == "rate" else "how long it takes")
        other = "rate" if key == "duration" else "duration"
        properties.button(f"Say its {other} instead", lambda: other_speed(properties, name, key, other))
    others = ("", *(other for other in document.drivers if other != name))
    properties.choice(grid, "after", (*place, "after"), others)
    properties.field(grid, "begins at", (*place, "at"), optional=True,
                     hint="Seconds, from the start or from the end of the "
                                                                      "driver that it comes after")  # fmt: skip
    properties.field(grid, "times", (*place, "times"), optional=True, hint="How often it does all that")
    if one.program is None:
        properties.switch("And back again", (*place, "back"), "Goes back the same way in the same time")
    properties.description(grid, "all takes", lambda: duration_text(properties))
    properties.button(f"Show joint {one.joint}", lambda: go_joint(properties, name))
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def said(properties: "Properties", place: tuple[str, ...]) -> str:
    """What the document says at a place now."""
    document = properties.session.document
    return str(lookup(document.tree, place, "")) if document is not None else ""


def drive_so(properties: "Properties", name: str, way: int) -> None:
    """Tells a driver what to do in another way, from what it does now."""
    document = properties.session.document
    if document is None:
        return
    entry = dict(document.tree["drivers"][name])
    changes: list[Change] = []
    if way == 1:
        changes, program = first_program(document, name)
        entry = {key: value for key, value in entry.items() if key not in ("to", "rate", "duration", "law", "follows")}
        entry["program"] = program
    elif way == 2:
        leader = next((other for other in document.drivers if other != name and other.isidentifier()), "")
        if not leader:
            properties.session.message.emit("There is no other driver to follow; make one first")
            properties.refresh_live()
            return
        entry = {key: value for key, value in entry.items() if key in ("joint", "steps", "note")}
        entry["follows"] = leader
    else:
        entry = {key: value for key, value in entry.items() if key not in ("program", "follows")}
        entry.setdefault("to", 0)
    faults = properties.session.apply([*changes, Set(("drivers", name), entry)], f"Drive {name} otherwise")
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)
        properties.refresh_live()


def first_program(document: Document, driver: str) -> tuple[list[Change], str]:
    """A program to begin with: the first over time that there is, else a rise, a dwell and a return."""
    for one in document.programs.values():
        joint = document.joints[document.drivers[driver].joint]
        counts = JOINT_TYPES[joint.type].coordinate_dimension(joint.values)
        if one.over == "time" and one.lift in ("", counts):
            return [], one.id
    made = new_program(document)
    return list(made.changes), str(made.place[-1])


def other_speed(properties: "Properties", name: str, key: str, other: str) -> None:
    """Says the duration of a driver in place of its rate, or the other way round, so that it runs as before."""
    document, motion = properties.session.document, properties.session.motion
    if document is None or motion is None:
        return
    one = document.drivers[name]
    column = motion.system.coordinates.index(one.joint)
    start = float(motion.at(np.zeros(1)).coordinates[0, column])
    span, unit = abs(one.stop - start), document.units
    now = one.duration if key == "duration" else one.rate
    if now is None:
        now = 1.0 if other == "rate" else max(span, 1.0)
    if span <= 0:
        return
    per = motion.system.coordinates.dimension(column).per_core(unit) if other == "rate" else 1.0
    value = round(span / now * per, 9)
    text = f"{value:g} s" if other == "duration" else value
    faults = properties.session.apply(
        [Remove(("drivers", name, key)), Set(("drivers", name, other), text)], f"Time of {name}"
    )
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def program(properties: "Properties", document: Document, name: str) -> None:
    """Its segments, its table or its sine, with what each law is worth."""
    one, place, entry = document.programs[name], ("programs", name), document.tree["programs"][name]
    users = [driver.id for driver in document.drivers.values() if driver.program is one]
    length = shown(one.length, "angle" if one.over == "angle" else "time", document.units)
    used = f"drives {', '.join(users)}" if users else "not used yet"
    properties.heading("PROGRAM", name, f"over {length}, {used}", place)
    segments = entry.get("segments", [])
    for number in properties.paged("segments", len(segments)):
        segment = segments[number]
        grid = properties.section(f"SEGMENT {number + 1}" + ("" if "to" in segment else ", A DWELL"))
        here = (*place, "segments", number)
        properties.field(grid, "over", (*here, "over"))
        properties.field(grid, "to", (*here, "to"), optional=True, hint="Where it goes; empty: it dwells")
        if "to" in segment:
            properties.choice(grid, "law", (*here, "law"), tuple(STANDARD), LAW_HINTS)
        properties.button("Take it away", partial(cut_segment, properties, name, number))
    if "segments" in entry:
        properties.button("One segment more", lambda: one_more(properties, name))
    if "points" in entry:
        properties.choice(properties.section(f"TABLE OF {len(entry['points'])} VALUES"), "curve", (*place, "curve"),
                    ("smooth", "straight"))  # fmt: skip
        properties.button("Read another table…", lambda: properties.table_wanted.emit(name))
    if "sine" in entry:
        grid = properties.section("SINE")
        for key in ("amplitude", "period", "phase", "middle", "cycles"):
            properties.field(grid, key, (*place, "sine", key), optional=key not in ("amplitude", "period"))
    if "segments" in entry:
        properties.note("Peak velocity and acceleration for a rise of one over one: "
                  + "; ".join(f"{law.title.lower()} {law.peak(1):.3g}, {law.peak(2):.3g}" for law in STANDARD.values()
                              if law.name in {segment.get("law") for segment in entry["segments"]}))  # fmt: skip
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def cut_segment(properties: "Properties", name: str, number: int) -> None:
    """Takes a segment out of a program."""
    document = properties.session.document
    if document is None or name not in document.programs:
        return
    segments = document.tree["programs"][name]["segments"]
    left = [segment for k, segment in enumerate(segments) if k != number]
    faults = properties.session.edit(("programs", name, "segments"), left, f"Segment of {name}") if left else (
        Fault(f"programs.{name}", "the last segment stays; delete the program instead"),)
    if faults:
        properties.session.faults_raised.emit("Not changed", faults)


def one_more(properties: "Properties", name: str) -> None:
    """Another segment at the end of a program: back to where it began."""
    document = properties.session.document
    if document is not None and name in document.programs:
        segments = document.tree["programs"][name]["segments"]
        over = segments[-1]["over"] if segments else "1 s"
        more = [*segments, {"over": over, "to": 0, "law": "345"}]
        properties.session.edit(("programs", name, "segments"), more, f"Segment of {name}")


def go_joint(properties: "Properties", driver: str) -> None:
    """Selects the joint of a driver."""
    document = properties.session.document
    if document is not None and driver in document.drivers:
        properties.session.selection.select(f"joints.{document.drivers[driver].joint}")


def duration_text(properties: "Properties") -> str:
    """How long the motion takes."""
    motion = properties.session.motion
    return f"{motion.planned:.4g} s" if motion is not None else "–"


def trace(properties: "Properties", document: Document, name: str) -> None:
    """What path it is."""
    trace = document.traces[name]
    seen = f"path of {trace.point}, seen from {trace.on or 'the frame'}"
    properties.heading("TRACE", name, seen, ("traces", name))
    grid = properties.section("ITS PATH")
    for label, what in (("length", "length"), ("along x", "x"), ("along y", "y")):
        properties.description(grid, label, partial(trace_text, properties, name, what))


def trace_text(properties: "Properties", name: str, what: str) -> str:
    """How long a path is, or from where to where it goes along an axis."""
    findings, document = properties.last(), properties.session.document
    if findings is None or document is None or name not in findings.document.traces:
        return "–"
    path = findings.paths[name]
    if path.why:
        return path.why
    if what == "length":
        return shown(path.length, "length", document.units, 3)
    low, high = path.x if what == "x" else path.y
    span = " to ".join(shown(end, "number", document.units, 3) for end in (low, high))
    return f"{span}, {shown(high - low, 'length', document.units, 3)}"


def check(properties: "Properties", document: Document, name: str) -> None:
    """What was found, what is wanted."""
    check = document.checks[name]
    kind = MEASURE_TYPES[check.measure]
    of = describe_measure(check.measured)
    properties.heading("CHECK", name, f"{check.measure.replace('_', ' ')} of {of}", ("checks", name))
    grid = properties.section("FOUND")
    properties.description(grid, "value", lambda: check_text(properties, name, "value"))
    properties.description(grid, "wanted", lambda: check_text(properties, name, "wanted"))
    properties.description(
        grid, "margin", lambda: check_text(properties, name, "margin"), lambda: check_role(properties, name)
    )
    properties.description(grid, "worst at", lambda: check_text(properties, name, "at"))
    why = properties.note("")
    properties.live.append(lambda: say_if_any(why, check_text(properties, name, "why")))
    how = properties.note("")
    properties.live.append(lambda: say_if_any(how, how_taken(properties, name)))
    properties.button("Go to the worst position", lambda: go_worst(properties, name))
    grid = properties.section("WANTED")
    for key in ("at_least", "at_most"):
        properties.field(grid, key.replace("_", " "), ("checks", name, key), optional=True)
    if not kind.whole and kind.name != "clearance" and document.drivers:
        properties.field(grid, "only at", ("checks", name, "at"), optional=True,
                   hint="The first driver's coordinate at which it is judged; empty: all along")
    fields = [field for field in kind.fields if field.form in ON_CARD]
    properties.form(grid, fields, ("checks", name), document.tree["checks"][name])
    if (kind.in_part or kind.name == "clearance") and document.drivers and check.at is None:
        grid = properties.section("OVER WHICH PART OF THE MOTION")
        for key in ("from", "until"):
            properties.field(grid, key, ("checks", name, key), optional=True,
                       hint="A coordinate of the driver, or a time such as 0.5 s; empty: all along")
        if len(document.drivers) > 1 and check.span is not None and check.span.driver:
            properties.choice(grid, "by", ("checks", name, "by"), tuple(document.drivers))
    properties.text(properties.section("NOTE"), "note", ("checks", name, "note"))


def how_taken(properties: "Properties", name: str) -> str:
    """What to know of how the value of a check was found."""
    verdict, motion = verdict_of(properties, name), properties.session.motion
    if verdict is None or verdict.value is None or motion is None or name not in motion.document.checks:
        return ""
    return remark_on(motion.document.checks[name].measured, motion)


def say_if_any(label: QLabel, text: str) -> None:
    """Shows a note, or hides it where there is nothing to say."""
    label.setText(text)
    label.setVisible(bool(text))


def jolts_text(properties: "Properties", name: str) -> str:
    """Where a driver jolts; empty where it doesn't."""
    motion, document = properties.session.motion, properties.session.document
    if motion is None or document is None or motion.document is not document:
        return ""
    words = {"start": "starts", "end": "ends", "between": "changes velocity"}
    found = [f"{words[jolt.place]} with a jolt at {shown(jolt.t, 'time', document.units)}"
             for jolt in motion.jolts if name in jolt.drivers]  # fmt: skip
    if not found:
        return ""
    more = f", and {len(found) - 2} more" if len(found) > 2 else ""
    how = "acceleration is infinite there. A law such as 345 begins and ends softly."
    return f"{name} {', '.join(found[:2])}{more}: {how}"


def verdict_of(properties: "Properties", name: str) -> "Verdict | None":
    """How a check came out."""
    findings = properties.last()
    return findings.verdicts.get(name) if findings is not None else None


def check_role(properties: "Properties", name: str) -> str:
    """The ink of its margin."""
    verdict, now = verdict_of(properties, name), properties.session.analysis.shown
    if verdict is None or now is None or not now.fresh:
        return "muted"
    return {"PASS": "good", "FAIL": "bad"}.get(verdict.outcome.name, "warn")


def check_text(properties: "Properties", name: str, what: str) -> str:
    """A line of what was found."""
    findings, document, verdict = properties.last(), properties.session.document, verdict_of(properties, name)
    if verdict is None or document is None or findings is None:
        return "–"
    units = document.units
    match what:
        case "value":
            if verdict.value is None:
                return "–"
            return shown(verdict.value, verdict.dimension, units, told_digits(verdict, units))
        case "wanted":
            return wanted_text(verdict, units)
        case "margin":
            margin = "" if verdict.margin is None or math.isinf(verdict.margin) else shown(
                verdict.margin, verdict.dimension, units, told_digits(verdict, units)
            ) + "  "
            return margin + OUTCOMES[verdict.outcome.name]
        case "why":
            return verdict.reason
    if verdict.driver is None or verdict.value is None:
        return "–"
    driver = findings.motion.drive.drivers[0].id
    return f"{driver} {shown(verdict.driver, findings.motion.driver_dimension, units, 2)}"


def go_worst(properties: "Properties", name: str) -> None:
    """Goes to where a check is worst."""
    verdict = verdict_of(properties, name)
    if verdict is not None:
        properties.session.pause()
        properties.session.go(verdict.t)


def measure(properties: "Properties", document: Document, name: str) -> None:
    """A measured value: it is read, and can't be set."""
    one, place = document.measures[name], ("measures", name)
    kind = MEASURE_TYPES[one.kind]
    properties.heading("MEASURED", name, f"{kind.title} of {describe_measure(one)}", place)
    grid = properties.section("FOUND, it can't be set")
    if kind.whole or kind.name == "clearance":
        properties.description(grid, "value", lambda: measured_text(properties, name, "high"))
    else:
        properties.description(grid, "now", lambda: measured_text(properties, name, "now"))
        properties.description(grid, "least", lambda: measured_text(properties, name, "low"))
        properties.description(grid, "greatest", lambda: measured_text(properties, name, "high"))
    fields = [field for field in kind.fields if field.form in ON_CARD]
    if fields:
        properties.form(properties.section("OF WHAT"), fields, place, document.tree["measures"][name])
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def measured_text(properties: "Properties", name: str, what: str) -> str:
    """A measured value now, or its least or greatest."""
    document = properties.session.document
    if document is None or name not in document.measures:
        return "–"
    dimension = dimension_of(document.measures[name], document)
    if what == "now":
        value = properties.session.posing.measured(name)
        return "–" if value is None else shown(value, dimension, document.units)
    findings = properties.last()
    if findings is None or findings.document is not document:
        return "–"
    series = next((one for one in findings.series if one.place == f"measures.{name}"), None)
    found = series or findings.numbers.get(name)
    if found is None:
        return "can't be told"
    return shown(found.low if what == "low" else found.high, dimension, document.units)


def position(properties: "Properties", document: Document, name: str) -> None:
    """A named position: the values that make it."""
    one, place = document.positions[name], ("positions", name)
    properties.heading("POSITION", name, "", place)
    for kind, values in (("drivers", one.drivers), ("joints", one.joints)):
        if values:
            grid = properties.section(f"OF ITS {kind.upper()}")
            for key in values:
                properties.field(grid, key, (*place, kind, key))
    properties.switch("At opening", (*place, "at_opening"), "The mechanism stands so when its file is opened")
    properties.button("Go there", lambda: properties.session.going.to_position(name))
    properties.text(properties.section("NOTE"), "note", (*place, "note"))


def pair(properties: "Properties", document: Document, name: str) -> None:
    """What is said of two parts."""
    one = document.pairs[name]
    properties.heading("PAIR LEFT OUT", name, " and ".join(one.parts), ("pairs", name))
    properties.text(properties.section("WHY"), "it is left out", ("pairs", name, "ignore"))


def track(properties: "Properties", document: Document, name: str) -> None:
    """A quantity that the strip shows: its ends."""
    one = document.tracks[name]
    kind = MEASURE_TYPES[one.measured.kind]
    properties.heading(
        "TRACK", name, f"{kind.title} of {describe_measure(one.measured)}: {kind.description}", ("tracks", name)
    )
    grid = properties.section("FOUND")
    properties.description(grid, "least", lambda: track_text(properties, name, "low"))
    properties.description(grid, "greatest", lambda: track_text(properties, name, "high"))
    for word, side in (("least", "low_t"), ("greatest", "high_t")):
        properties.button(f"Go to the {word}", partial(go_end, properties, name, side))
    fields = [field for field in kind.fields if field.form in ON_CARD]
    if fields:
        properties.form(properties.section("FORM"), fields, ("tracks", name), document.tree["tracks"][name])
    properties.text(properties.section("NOTE"), "note", ("tracks", name, "note"))


def track_text(properties: "Properties", name: str, side: str) -> str:
    """The least or the greatest of a track."""
    findings = properties.last()
    series = findings.tracks.get(name) if findings is not None else None
    if series is None or findings is None:
        return "can't be told"
    return shown(getattr(series, side), series.dimension, findings.document.units)


def go_end(properties: "Properties", name: str, side: str) -> None:
    """Goes to where a track is least or greatest."""
    findings = properties.session.findings
    series = findings.tracks.get(name) if findings is not None else None
    if series is not None:
        properties.session.pause()
        properties.session.go(getattr(series, side))
