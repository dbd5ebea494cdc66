"""Which tracks the strip shows, and in which order."""

from dataclasses import dataclass
from itertools import product
from typing import TYPE_CHECKING, Any

from anakinema.document.model import Measure
from anakinema.findings.measuring import same

if TYPE_CHECKING:
    from anakinema.findings import Findings
    from anakinema.findings.series import Series

LABELS = 186
TRACK, BAR = 50, 44
EDGE = 88
"""Room at the right of the plots for the least and greatest value."""


@dataclass(frozen=True)
class Shown:
    """A track: its series, whether a check of it fails, its height, and its name among the document's tracks."""

    series: "Series"
    failed: bool
    height: int = TRACK
    track: str = ""


def _subject(measured: Measure) -> frozenset[str]:
    """What is measured, as a series names it: two parts, or the place of a joint or a measure."""
    return frozenset(measured.parts or (f"joints.{measured.joint}" if measured.joint else f"measures.{measured.id}",))


def curves(findings: "Findings") -> "list[Shown]":
    """The tracks of the document in their order; where it says none, those that are of use."""
    bars = [Shown(series, False, BAR) for series in findings.series if series.bars is not None]
    if findings.document.tracks:
        return [*_chosen(findings), *bars]
    found = _useful(findings)
    bad = [one for one in found if one.failed]
    return [*bad, *bars, *(one for one in found if not one.failed)]


def _chosen(findings: "Findings") -> "list[Shown]":
    found = []
    for name, track in findings.document.tracks.items():
        series = findings.tracks.get(name)
        if series is not None:
            bad = any(same(verdict.check.measured, track.measured) for verdict in findings.failed)
            found.append(Shown(series, bad, track.height or TRACK, name))
    return found


def _useful(findings: "Findings") -> "list[Shown]":
    """What fails first, then joints that a check or a limit speaks of, then clearances, the closest first, then the
    other joints, the driven ones last."""
    failed = {_subject(verdict.check.measured) for verdict in findings.failed}
    touching = {frozenset(pair) for contact in findings.document.active_contacts.values()
                for pair in product(*contact.sides)}  # fmt: skip
    wanted = {_subject(verdict.check.measured) for verdict in findings.verdicts.values()}
    driven = {driver.joint for driver in findings.document.drivers.values()}
    found = []
    for series in findings.series:
        if series.bars is not None or (series.parts is not None and frozenset(series.parts) in touching):
            continue  # how far parts of a contact are apart is told by its bar
        subject = frozenset(series.parts or (series.place,))
        bad = subject in failed
        if series.parts is not None:
            rank = -1 if bad else 1
        elif series.place.removeprefix("joints.") in driven:
            rank = 3
        else:
            rank = 0 if series.bounds or subject in wanted or series.place.startswith("measures.") else 2
        found.append((rank, series.low if series.parts is not None else 0.0, series, bad))
    return [Shown(series, bad) for _, _, series, bad in sorted(found, key=lambda entry: entry[:2])]


def entry_of(series: "Series") -> dict[str, Any]:
    """How the document writes a track of a series that it does not write yet."""
    if series.parts is not None:
        return {"measure": "clearance", "parts": list(series.parts)}
    kind, _, name = series.place.partition(".")
    return {"measure": "measured", "of": name} if kind == "measures" else {"measure": "coordinate", "joint": name}
