"""The cards of drivers, traces, checks, measures and positions."""

from typing import TYPE_CHECKING

from anakinema.document.model import Document
from anakinema.findings.measuring import dimension_of
from anakinema.formats.results import wanted_text
from anakinema.words import measured_told, shown

if TYPE_CHECKING:
    from anakinema.findings import Verdict

    from .card import Card

OUTCOMES = {"PASS": "passes", "FAIL": "fails", "UNPROVEN": "unproven", "NOT_JUDGED": "not judged"}


def driver(card: "Card", document: Document, name: str) -> None:
    """Range, speed, and how long it takes."""
    card.heading("DRIVER", name, f"drives joint {document.drivers[name].joint}", ("drivers", name))
    grid = card.section("RANGE")
    for key in ("from", "to"):
        card.field(grid, key, ("drivers", name, key), optional=key == "from")
    card.field(grid, "steps", ("drivers", name, "steps"))
    grid = card.section("SPEED")
    key = "duration" if "duration" in document.tree["drivers"][name] else "rate"
    card.field(grid, key, ("drivers", name, key), optional=True)
    card.told(grid, "takes", lambda: duration_text(card))
    card.button(f"Show joint {document.drivers[name].joint}", lambda: go_joint(card, name))


def go_joint(card: "Card", driver: str) -> None:
    """Selects the joint of a driver."""
    document = card.session.document
    if document is not None and driver in document.drivers:
        card.session.select(f"joints.{document.drivers[driver].joint}")


def duration_text(card: "Card") -> str:
    """How long the motion takes."""
    motion = card.session.motion
    return f"{motion.planned:.4g} s" if motion is not None else "–"


def trace(card: "Card", document: Document, name: str) -> None:
    """What path it is."""
    trace = document.traces[name]
    seen = f"path of {trace.point}, seen from {trace.on or 'the frame'}"
    card.heading("TRACE", name, seen, ("traces", name))


def check(card: "Card", document: Document, name: str) -> None:
    """What was found, what is wanted."""
    check = document.checks[name]
    of = measured_told(check.measured)
    card.heading("CHECK", name, f"{check.measure.replace('_', ' ')} of {of}", ("checks", name))
    grid = card.section("FOUND")
    card.told(grid, "value", lambda: check_text(card, name, "value"))
    card.told(grid, "wanted", lambda: check_text(card, name, "wanted"))
    card.told(grid, "margin", lambda: check_text(card, name, "margin"), lambda: check_role(card, name))
    card.told(grid, "worst at", lambda: check_text(card, name, "at"))
    why = card.note("")
    card.live.append(lambda: (why.setText(check_text(card, name, "why")), why.setVisible(bool(why.text()))))
    card.button("Go to the worst position", lambda: go_worst(card, name))
    grid = card.section("WANTED")
    for key in ("at_least", "at_most"):
        card.field(grid, key.replace("_", " "), ("checks", name, key), optional=True)
    card.text(card.section("NOTE"), "why", ("checks", name, "note"))


def verdict_of(card: "Card", name: str) -> "Verdict | None":
    """How a check came out."""
    findings = card.last()
    return findings.verdicts.get(name) if findings is not None else None


def check_role(card: "Card", name: str) -> str:
    """The ink of its margin."""
    verdict = verdict_of(card, name)
    if verdict is None or not (card.session.shown is not None and card.session.shown.fresh):
        return "muted"
    return {"PASS": "good", "FAIL": "bad"}.get(verdict.outcome.name, "warn")


def check_text(card: "Card", name: str, what: str) -> str:
    """A line of what was found."""
    findings, document, verdict = card.last(), card.session.document, verdict_of(card, name)
    if verdict is None or document is None or findings is None:
        return "–"
    units = document.units
    match what:
        case "value":
            return "–" if verdict.value is None else shown(verdict.value, verdict.dimension, units)
        case "wanted":
            return wanted_text(verdict, units)
        case "margin":
            margin = "" if verdict.margin is None else shown(verdict.margin, verdict.dimension, units) + "  "
            return margin + OUTCOMES[verdict.outcome.name]
        case "why":
            return verdict.reason
    if verdict.driver is None or verdict.value is None:
        return "–"
    driver = findings.motion.drive.drivers[0].id
    return f"{driver} {shown(verdict.driver, findings.motion.driver_dimension, units, 2)}"


def go_worst(card: "Card", name: str) -> None:
    """Goes to where a check is worst."""
    verdict = verdict_of(card, name)
    if verdict is not None:
        card.session.pause()
        card.session.go(verdict.t)


def measure(card: "Card", document: Document, name: str) -> None:
    """A measured value: it is read, and can't be set."""
    one = document.measures[name]
    card.heading("MEASURED", name, f"{one.kind} of {measured_told(one)}", ("measures", name))
    grid = card.section("FOUND, it can't be set")
    card.told(grid, "now", lambda: measured_text(card, name, "now"))
    card.told(grid, "least", lambda: measured_text(card, name, "low"))
    card.told(grid, "greatest", lambda: measured_text(card, name, "high"))
    card.text(card.section("NOTE"), "why", ("measures", name, "note"))


def measured_text(card: "Card", name: str, what: str) -> str:
    """A measured value now, or its least or greatest."""
    document = card.session.document
    if document is None or name not in document.measures:
        return "–"
    if what == "now":
        return shown(card.session.measured(name), dimension_of(document.measures[name], document), document.units)
    findings = card.last()
    series = next((one for one in findings.series if one.place == f"measures.{name}"), None) if findings else None
    if series is None:
        return "–"
    return shown(series.low if what == "low" else series.high, series.dimension, document.units)


def position(card: "Card", document: Document, name: str) -> None:
    """A named position: the values that make it."""
    one, place = document.positions[name], ("positions", name)
    card.heading("POSITION", name, "", place)
    for kind, values in (("drivers", one.drivers), ("joints", one.joints)):
        if values:
            grid = card.section(f"OF ITS {kind.upper()}")
            for key in values:
                card.field(grid, key, (*place, kind, key))
    card.switch("At opening", (*place, "at_opening"), "The mechanism stands so when its file is opened")
    card.button("Go there", lambda: card.session.go_position(name))
    card.text(card.section("NOTE"), "why", (*place, "note"))


def pair(card: "Card", document: Document, name: str) -> None:
    """What is said of two parts."""
    one = document.pairs[name]
    card.heading("PAIR LEFT OUT", name, " and ".join(one.parts), ("pairs", name))
    card.text(card.section("WHY"), "it is left out", ("pairs", name, "ignore"))
