"""Which tracks the strip shows, and in which order."""

from typing import TYPE_CHECKING

from anakinema.document.model import Measure

if TYPE_CHECKING:
    from anakinema.findings import Findings
    from anakinema.findings.series import Series

LABELS = 186
TRACK = 50
EDGE = 70
"""Room at the right of the plots for the least and greatest value."""


def _subject(measured: Measure) -> frozenset[str]:
    """What is measured, as a series names it: two parts, or the place of a joint or a measure."""
    return frozenset(measured.parts or (f"joints.{measured.joint}" if measured.joint else f"measures.{measured.id}",))


def curves(findings: "Findings") -> "list[tuple[Series, bool]]":
    """The series of the findings, each with whether a check of it fails: what fails first, then joints that a check
    or a limit speaks of, then clearances, the closest first, then the other joints, the driven ones last."""
    failed = {_subject(verdict.check.measured) for verdict in findings.failed}
    wanted = {_subject(verdict.check.measured) for verdict in findings.verdicts.values()}
    driven = {driver.joint for driver in findings.document.drivers.values()}
    found = []
    for series in findings.series:
        subject = frozenset(series.parts or (series.place,))
        bad = subject in failed
        if series.parts is not None:
            rank = -1 if bad else 1
        elif series.place.removeprefix("joints.") in driven:
            rank = 3
        else:
            rank = 0 if series.bounds or subject in wanted or series.place.startswith("measures.") else 2
        found.append((rank, series.low if series.parts is not None else 0.0, series, bad))
    return [(series, bad) for _, _, series, bad in sorted(found, key=lambda entry: entry[:2])]
