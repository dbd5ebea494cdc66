"""The card of the document when nothing is selected, and of a parameter."""

from functools import partial
from typing import TYPE_CHECKING

from anakinema.document.model import Document
from anakinema.document.references import references
from anakinema.errors import Fault
from anakinema.formatting import shown
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
    findings = properties.last()
    return "" if findings is None else f"{pairs(properties)}{findings.linkages[:MOST_LINKAGES]}"


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
