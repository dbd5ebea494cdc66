"""A motion's numbers as tables and JSON, in the document's units, as the format contract says."""

import csv
import io
import json
import math
from collections.abc import Collection, Sequence
from typing import Any

import numpy as np

from ..cams.judgement import CamJudgement
from ..document.model import Document
from ..findings.analysis import Findings
from ..findings.checks import Outcome, Verdict
from ..findings.gears import GearFinding
from ..findings.measuring import dimension_of
from ..formatting import describe_measure, digits_apart, in_document_units, shown
from ..joints.belt import links
from ..kinds import Dimension, Units
from ..kinematics.modes import Modes
from ..kinematics.motion import Motion
from ..kinematics.traces import trace
from ..measures.jolts import FELL
from ..measures.transmission import world
from .driving import driver_value
from .shop import cautions_json, shop_json


def motion_csv(motion: Motion, rates: bool = False) -> str:
    """One row for each step reached, and one at a stop between them: step (a fraction at a stop), time, joint
    coordinates, then place, velocity, acceleration of traces; with `rates` last of all those of the joints."""
    state, units = motion.with_its_stop, motion.document.units
    per_unit = np.where(motion.system.coordinates.is_length, 1.0, 180 / math.pi if units.angle == "deg" else 1.0)
    columns = [state.t[:, None], state.coordinates * per_unit]
    header = ["step", "time", *motion.system.coordinates.ids]
    for wanted in motion.document.traces.values():
        path = trace(motion, state, wanted)
        fast = [path.velocity.copy(), path.acceleration.copy()]
        for row in np.flatnonzero(np.isin(state.t, motion.path.drops)).tolist():  # never a number from differences
            before = trace(motion, motion.at(np.nextafter(state.t[row : row + 1], -math.inf)), wanted).place[0]
            gone = path.place[row] - before
            for each in fast:
                each[row, np.abs(gone) > FELL] = np.copysign(math.inf, gone)[np.abs(gone) > FELL]
        columns += [path.place, *fast]
        header += [f"{wanted.id}.{name}" for name in ("x", "y", "vx", "vy", "ax", "ay")]
    if rates:
        pairs = np.stack((state.rates * per_unit, state.accelerations * per_unit), axis=2)
        dropped = np.isin(state.t, motion.path.drops)
        for row in np.flatnonzero(dropped).tolist():  # infinite there, never a number from differences
            gone = state.coordinates[row] - motion.at(np.nextafter(state.t[row : row + 1], -math.inf)).coordinates[0]
            fell = np.abs(gone) > FELL
            pairs[row, fell] = np.copysign(math.inf, gone[fell])[:, None]
        columns.append(pairs.reshape(len(state.t), -1))
        header += [f"{joint}.{name}" for joint in motion.system.coordinates.ids for name in ("v", "a")]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(header)
    for step, row in zip(motion.numbers_of(state.t), np.concatenate(columns, axis=1).tolist(), strict=True):
        writer.writerow([step, *row])  # floats are written so that they round-trip
    return out.getvalue()


def results(findings: Findings) -> dict[str, Any]:
    """The JSON object of `anakinema run --json`."""
    motion = findings.motion
    units = motion.document.units
    joints = {}
    for i, joint in enumerate(motion.system.coordinates.ids):
        edges = (motion.extremes.low, motion.extremes.high)
        low, high = (in_document_units(float(edge[i]), motion.system.coordinates.dimension(i), units) for edge in edges)
        joints[joint] = {"min": low, "max": high, "travel": high - low}
    return {
        "mobility": {
            "dof": motion.mobility.dof,
            "redundant": list(motion.mobility.redundant),
            "count": motion.mobility.count,
            "because": {name: list(others) for name, others in motion.mobility.because.items()},
        },
        "joints": joints,
        "clearance": [
            {
                "parts": list(approach.parts),
                "min": approach.distance,
                "driver": driver_value(motion, approach.driver),
                "proven": approach.proven,
            }
            | ({} if approach.proven else {"reason": approach.reason})
            | ({} if approach.proven or not math.isfinite(approach.low) else {"at_least": float(approach.low)})
            for approach in findings.approaches
        ],
        "checks": {name: _check(motion, verdict, units) for name, verdict in findings.verdicts.items()},
        "stopped": None
        if motion.stop is None
        else {
            "driver": driver_value(motion, motion.stop.driver),
            "drivers": motion.drivers_at(motion.stop.t),
            "reason": motion.stop.reason,
            "text": motion.stop.text,
        },
        "linkages": [
            {"parts": list(found.parts), "lengths": list(found.lengths), "class": found.kind}
            for found in findings.linkages
        ],
        "behaviour": {
            joint: {
                "time_ratio": found.time_ratio,
                "dwells": [
                    [driver_value(motion, motion.driver_value(t)) for t in (dwell.start, dwell.stop)]
                    for dwell in found.dwells
                ],
            }
            for joint, found in findings.behaviours.items()
        },
        "shop": shop_json(findings),
        "cautions": cautions_json(findings),
        "same_depth": [{"parts": list(pair.parts), "joint": pair.joint} for pair in findings.same_depth],
        "chosen_ways": [
            {"parts": [motion.system.body_ids[body] for body in stretch.turned_least],
             "driver": driver_value(motion, motion.driver_value(stretch.law.t0))}
            for stretch in motion.path.stretches if stretch.turned_least
        ],
        "lost": [
            {"joint": lost.joint, "edge": lost.edge, "driver": driver_value(motion, lost.driver)}
            for lost in motion.lost
        ],
        "contacts": {
            name: [{"driver": driver_value(motion, motion.driver_value(event.t)), "kind": event.kind}
                   for event in motion.path.events if event.owner == name]
            for name in motion.document.contacts
        },
        "cams": {name: _cam(motion.document, name, found) for name, found in findings.cams.items()},
        "gears": {name: _gear(found) for name, found in findings.gears.items() if found.mesh is not None},
        "belts": _belts(motion),
        "undriven": list(motion.drive.held),
        "measures": {
            series.name: _number("min", in_document_units(series.low, series.dimension, units))
            | _number("max", in_document_units(series.high, series.dimension, units))
            for series in findings.series if series.place.startswith("measures.")
        }
        | {
            name: _number("value", in_document_units(ends.high, dimension_of(motion.document.measures[name],
                                                                            motion.document), units))
            for name, ends in findings.numbers.items()
        },
    }


def results_json(findings: Findings) -> str:
    """`results` as text, an entry of each section on a line of its own."""
    sections = [f"  {_flat(key)}: {_entries(value)}" for key, value in results(findings).items()]
    return "{\n" + ",\n".join(sections) + "\n}\n"


def _entries(section: Any) -> str:
    if isinstance(section, dict) and section:
        return "{\n" + ",\n".join(f"    {_flat(key)}: {_flat(value)}" for key, value in section.items()) + "\n  }"
    if isinstance(section, list) and section:
        return "[\n" + ",\n".join(f"    {_flat(entry)}" for entry in section) + "\n  ]"
    return _flat(section)


def _flat(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def _check(motion: Motion, verdict: Verdict, units: Units) -> dict[str, Any]:
    value = None if verdict.value is None else in_document_units(verdict.value, verdict.dimension, units)
    entry = {**_number("value", value), "pass": verdict.passed, "at": driver_value(motion, verdict.driver)}
    entry |= {bound: in_document_units(getattr(verdict.check, bound), verdict.dimension, units)
              for bound in verdict.check.asked if getattr(verdict.check, bound) is not None}  # fmt: skip
    return entry | {"outcome": str(verdict.outcome)} | ({"reason": verdict.reason} if verdict.reason else {})


def _cam(document: Document, name: str, found: CamJudgement) -> dict[str, Any]:
    """What is said of a cam; places are coordinates of its shaft."""
    units, shaft = document.units, document.joints[document.couplings[name].a]
    turns = Dimension.LENGTH if shaft.kind.straight else Dimension.ANGLE
    lifts = Dimension.ANGLE if document.joints[document.couplings[name].b].kind.pin else Dimension.LENGTH

    def at(value: float) -> float:
        return in_document_units(value, turns, units)

    pressure = in_document_units(found.pressure.value, Dimension.ANGLE, units)
    return {
        "base": found.base,
        "lift": in_document_units(found.lift, lifts, units),
        "pressure_angle": {"value": pressure, "at": at(found.pressure.at)},
        "curvature": {**_number("value", found.convex.value), "at": at(found.convex.at)},
        "hollow": {**_number("value", found.hollow.value), "at": at(found.hollow.at)},
        "undercut": [[at(start), at(stop)] for start, stop in found.undercut],
        "face": found.face_width,
        "sliding": {"value": found.sliding.value, "at": at(found.sliding.at)},
    }


def _belts(motion: Motion) -> dict[str, Any]:
    """Toothed belts and chains at the start: pitches, and the distance of axes for a whole number of them."""
    document, found = motion.document, {}
    q = motion.positions(np.zeros(1))
    for name, coupling in document.active_couplings.items():
        pitch, teeth = coupling.given.get("pitch"), coupling.given.get("teeth")
        if not isinstance(pitch, float) or not isinstance(teeth, tuple):
            continue
        axes = [complex(world(motion, q, document.joints[joint].b)[0]) for joint in (coupling.a, coupling.b)]
        try:
            one = links(abs(axes[1] - axes[0]), pitch, teeth, coupling.given.get("run") == "crossed")
        except ValueError:
            continue
        found[name] = {"length": one.count * pitch, "links": one.count, "whole": one.whole,
                       "center_distance": one.distance}  # fmt: skip
    return found


def _gear(found: GearFinding) -> dict[str, Any]:
    """What is said of two wheels in mesh."""
    mesh = found.mesh
    assert mesh is not None
    return {"contact_ratio": mesh.contact_ratio, "center_distance": mesh.distance, "backlash": mesh.backlash,
            "undercut": mesh.undercut, "tight_distance": mesh.tight, "interferes": mesh.interferes}  # fmt: skip


def _number(key: str, value: float | None) -> dict[str, Any]:
    """A value by its key; one that is infinite is null, which is said beside."""
    if value is None or math.isfinite(value):
        return {key: value}
    return {key: None, "infinite": True}


def wanted_text(verdict: Verdict, units: Units) -> str:
    """What a check wants: ``≥ 28 mm``, ``≤ 40°``, or both."""
    bounds, digits = (("≥", verdict.check.at_least), ("≤", verdict.check.at_most)), told_digits(verdict, units)
    return ", ".join(
        f"{sign} {shown(bound, verdict.dimension, units, digits)}" for sign, bound in bounds if bound is not None
    )


def told_digits(verdict: Verdict, units: Units) -> int:
    """With how many decimals a value and what is wanted of it are told: so many that they differ where they do."""
    if verdict.value is None:
        return 4
    return digits_apart(verdict.value, (verdict.check.at_least, verdict.check.at_most), verdict.dimension, units)


def modes_table(motion: Motion, found: Modes) -> str:
    """The ways to put a mechanism together, a line each with its joint coordinates and the limits it breaks."""
    coordinates, units = motion.system.coordinates, motion.document.units
    near = motion.at(np.zeros(1)).coordinates[0]
    some_outside = any(mode.outside for mode in found.ways)
    rows = [("way", *coordinates.ids, *(("limits",) if some_outside else ()))]
    for number, mode in enumerate(found.ways, 1):
        values = [value if coordinates.is_length[i] else math.pi - (math.pi - value) % math.tau
                  for i, value in enumerate(motion.posed(mode.q, near).tolist())]  # fmt: skip
        cells = (shown(value, coordinates.dimension(i), units) for i, value in enumerate(values))
        kept = f"outside those of {', '.join(mode.outside)}" if mode.outside else "kept"
        rows.append((str(number), *cells, *((kept,) if some_outside else ())))
    table = aligned(rows, right=range(1, len(coordinates.ids) + 1))
    return table + (f"{found.doubt}\n" if found.doubt else "")


def aligned(rows: Sequence[Sequence[str]], right: Collection[int]) -> str:
    """Rows of words as a table under a head, the columns `right` set to the right."""
    widths = [max(len(row[i]) for row in rows) for i in range(len(rows[0]))]
    lines = [
        "  ".join(row[i].rjust(width) if i in right else row[i].ljust(width) for i, width in enumerate(widths))
        for row in rows
    ]
    lines.insert(1, "  ".join("-" * width for width in widths))
    return "\n".join(line.rstrip() for line in lines) + "\n"


def check_table(findings: Findings) -> str:
    """The checks as an aligned table: value, wanted, margin, where worst."""
    motion, units = findings.motion, findings.motion.document.units
    rows = [("check", "measure", "of", "value", "wanted", "margin", "worst at", "verdict")]
    for name, verdict in findings.verdicts.items():
        check = verdict.check
        digits = told_digits(verdict, units)
        value = "–" if verdict.value is None else shown(verdict.value, verdict.dimension, units, digits)
        margin = "–"
        if verdict.margin is not None and math.isfinite(verdict.margin):
            margin = shown(verdict.margin, verdict.dimension, units, digits)
        at = "–"
        if verdict.value is not None and verdict.driver is not None:
            at = shown(verdict.driver, motion.driver_dimension, units)
        subject = describe_measure(check.measured)
        wanted = wanted_text(verdict, units)
        word = "FAIL" if verdict.outcome is Outcome.FAIL else str(verdict.outcome)
        word += f": {verdict.reason}" if verdict.reason else ""
        rows.append((name, check.measure, subject, value, wanted, margin, at, word))
    return aligned(rows, right=(3, 5, 6))
