"""The card of the document when nothing is selected, and of a parameter."""

from functools import partial
from typing import TYPE_CHECKING

import numpy as np

from anakinema.document.model import Document
from anakinema.document.references import references
from anakinema.errors import Fault, listed
from anakinema.formatting import shown
from anakinema.kinematics.masses import center_along, density_of, holding, masses_in
from anakinema.operations import place_words, tolerance_text, with_tolerance

from ...session import Session
from ..fields import ToldField, as_value

if TYPE_CHECKING:
    from ...session import Place
    from .properties import Properties

NEAREST = 8
"""Pairs that are listed."""
MOST_LINKAGES = 12


def outline(properties: "Properties") -> str:
    """What the rows depend on besides the parameters."""
    findings, document = properties.last(), properties.session.document
    heavy = [] if document is None else weighed(document)[0]
    return f"{heavy}" + ("" if findings is None else f"{pairs(properties)}{findings.linkages[:MOST_LINKAGES]}")


def pairs(properties: "Properties") -> list[tuple[str, str]]:
    """The pairs that come closest."""
    findings = properties.last()
    known = [found for found in findings.approaches if found.distance is not None] if findings is not None else []
    return [approach.parts for approach in sorted(known, key=lambda found: found.distance or 0.0)[:NEAREST]]


def document(properties: "Properties", document: Document, _: str) -> None:
    """Parameters, closest approaches, linkages."""
    units = f"lengths in {document.units.length}, angles in {document.units.angle}"
    properties.heading("MECHANISM", document.title or "Untitled", units)
    if document.parameters:
        some = properties.paged("parameters", len(document.parameters))
        grid = properties.section("PARAMETERS")
        for parameter in list(document.parameters.values())[some.start : some.stop]:
            properties.field(grid, parameter.id, value_place(document, parameter.id), hint=parameter.note)
    properties.note(
        "Numbers may be expressions: 2*rod + 3 mm, 1/2 in, 90 deg - lead. Typed into any field, rod = 40 makes a "
        "parameter of it. Select anything to see its card."
    )
    closest = pairs(properties)
    if closest:
        grid = properties.section("CLOSEST APPROACHES")
        for pair in closest:
            properties.description(grid, f"{pair[0]} – {pair[1]}", partial(approach_text, properties, pair))
    weight(properties, document)
    findings = properties.last()
    if findings is not None and findings.linkages:
        grid = properties.section("LINKAGES")
        alike: dict[tuple[str, tuple[float, ...]], list[str]] = {}
        for linkage in findings.linkages:  # those of copies are told once
            lengths = tuple(round(length, 6) for length in linkage.lengths)
            alike.setdefault((linkage.kind, lengths), []).append("–".join(linkage.parts))
        for alike_of, named in list(alike.items())[:MOST_LINKAGES]:
            more = f"  and {len(named) - 1} alike" if len(named) > 1 else ""
            properties.description(grid, named[0], f"{alike_of[0]}{more}".__str__)
    properties.note("Moving machinery crushes and shears. Guard it, and follow local codes and licensed practice.")


def weighed(document: Document) -> tuple[list[str], list[str]]:
    """The names of the parts with an outline of which the mass is known, and of those of which it isn't."""
    known: list[str] = []
    lack: list[str] = []
    for part in document.parts.values():
        if part.shapes:
            (lack if density_of(document, part) is None else known).append(part.name)
    return known, lack


def weight(properties: "Properties", document: Document) -> None:
    """Mass and centre of all parts of which they are known, and what they ask of the first driver."""
    known, lack = weighed(document)
    if not known:
        return
    grid = properties.section("WEIGHT, down along −y, now")
    for label, number in (("mass", 0), ("of it moves", 1), ("its centre", 2)):
        properties.description(grid, label, partial(whole_text, properties, number))
    for label, number in (("hold with", 0), ("let go", 1)):
        properties.description(grid, label, partial(holding_text, properties, number))
    if lack:
        properties.note(f"Without {listed(lack, 4)}: no density is known.")


def whole_text(properties: "Properties", number: int) -> str:
    """Mass of the whole, mass of what moves, or where the centre of that is at the play head."""
    motion, posing = properties.session.motion, properties.session.posing
    if motion is None:
        return "…"
    found = masses_in(motion)
    moving = {name: one for name, one in found.items() if not motion.document.parts[name].fixed}
    if number < 2:
        return f"{sum(one.mass for one in (moving if number else found).values()):.4g} kg"
    if posing.posed is not None or not moving:
        return "–"
    center = complex(center_along(motion, moving, np.array([properties.session.time]))[0])
    x, y = (shown(value, "length", motion.document.units, 2) for value in (center.real, center.imag))
    return f"({x}, {y})"


def holding_text(properties: "Properties", number: int) -> str:
    """What holds the first driver against the weight where the play head is, or where it goes when let go."""
    motion, posing = properties.session.motion, properties.session.posing
    if motion is None or not motion.drive.drivers or posing.posed is not None:
        return "–"
    driver, held = motion.drive.drivers[0], holding(motion, properties.session.time)
    if held is None:
        return "–" if number else "nothing: a dead point"
    if not held.fall:
        return "it stays" if number else "nothing: balanced"
    if number:
        return f"{driver.id} goes on" if held.fall > 0 else f"{driver.id} goes back"
    unit = "N" if motion.document.joints[driver.joint].kind.straight else "N·m"
    return f"{held.effort:.4g} {unit} at {driver.id}"


def value_place(document: Document, name: str) -> "Place":
    """Where a parameter's expression stands."""
    entry = document.tree["parameters"][name]
    return ("parameters", name, "value") if isinstance(entry, dict) else ("parameters", name)


def approach_text(properties: "Properties", pair: tuple[str, str]) -> str:
    """The least distance of a pair."""
    findings, document = properties.last(), properties.session.document
    if findings is None or document is None:
        return "…"
    found = next((approach for approach in findings.approaches if approach.parts == pair), None)
    if found is None or found.distance is None:
        return "–"
    text = shown(found.distance, "length", document.units, 3)
    return text if found.proven else f"{text} (sampled)"


def parameter(properties: "Properties", document: Document, name: str) -> None:
    """Value, note, and where it is used."""
    properties.heading("PARAMETER", name, "", ("parameters", name))
    grid = properties.section("VALUE")
    properties.field(grid, "value", value_place(document, name))
    field = ToleranceField(properties.session, name)
    properties.own_field(grid, 2, "tolerance ±", field, f"parameters.{name}.tolerance")
    if isinstance(document.tree["parameters"][name], dict):
        properties.text(grid, "note", ("parameters", name, "note"))
    users = [place_words(document, one.place) for one in references(document) if one.target == ("parameters", name)]
    if users:
        more = f" and {len(users) - MOST_LINKAGES} more" if len(users) > MOST_LINKAGES else ""
        properties.note(f"used in {', '.join(users[:MOST_LINKAGES])}{more}")
    else:
        properties.note("not used yet")


class ToleranceField(ToldField):
    """By how much a parameter may be off; empty where it may not."""

    def __init__(self, session: Session, name: str):
        self.parameter = name
        super().__init__(session, ("parameters", name, "tolerance"), f"tolerance of {name}", optional=True)

    def said(self, document: Document) -> str:
        there = self.parameter in document.parameters
        return tolerance_text(document, ("parameters", self.parameter)) if there else ""

    def put(self, text: str) -> tuple[Fault, ...]:
        document, by = self.session.document, text.lstrip("±").strip()
        if document is None:
            return ()
        made = with_tolerance(document, ("parameters", self.parameter), as_value(by) if by else "")
        return self.session.apply(made.changes, f"Tolerance of {self.parameter}") if made.changes else ()
