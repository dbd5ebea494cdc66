"""What a study asks of each build: findings by name, and how its checks came out.

A finding is named as the document names it: ``checks.stroke`` (its value), ``joints.guide.travel``,
``joints.guide.min``,
``measures.gap.max``.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from ..cancellation import CancellationToken
from ..document.model import Document, Measure
from ..errors import DocumentError, located, suggestion
from ..findings.checks import Outcome, Verdict, judge
from ..findings.measuring import dimension_of, ends_of
from ..kinds import Dimension
from ..kinematics.motion import Motion
from ..measures import MEASURE_TYPES
from .builds import Builds
from .numbers import Numbers

if TYPE_CHECKING:
    from ..clearance.approach import Approach

ENDS = ("travel", "min", "max")


@dataclass(frozen=True)
class Finding:
    """A number that a motion shows: a check's value, or the least, the greatest or the travel of a measure."""

    name: str
    dimension: Dimension
    check: str = ""
    measure: Measure | None = None
    end: str = ""


def findings_of(document: Document) -> list[str]:
    """All findings that can be asked for: of the checks first."""
    names = [f"checks.{name}" for name in document.checks]
    names += [f"measures.{name}.{end}" for name, one in document.measures.items() if one.kind != "clearance"
              for end in ("min", "max")]  # fmt: skip
    for joint in document.active_joints.values():
        measure = Measure("", "coordinate", (), (), joint.id)
        if _counts(document, measure):
            names += [f"joints.{joint.id}.{end}" for end in ENDS]
    return names


def _counts(document: Document, measure: Measure) -> bool:
    from ..joints import JOINT_TYPES

    joint = document.joints[measure.joint]
    return JOINT_TYPES[joint.type].coordinate_dimension(joint.values) is not None


def finding(document: Document, name: str) -> Finding:
    """A finding by its name. Raises `DocumentError` where there is none of it."""
    known = findings_of(document)
    if name not in known:
        near = suggestion(name, known)
        raise located("find", f"there is no finding '{name}'{near}; there are {', '.join(known[:8])}"
                              f"{' …' if len(known) > 8 else ''}")  # fmt: skip
    section, rest = name.split(".", 1)
    if section == "checks":
        return Finding(name, dimension_of(document.checks[rest].measured, document), check=rest)
    thing, _, end = rest.rpartition(".")
    measure = document.measures[thing] if section == "measures" else Measure("", "coordinate", (), (), thing)
    return Finding(name, dimension_of(measure, document), measure=measure, end=end)


@dataclass(frozen=True)
class Build:
    """What one build shows: `values` of the findings asked (core units; None where one could not be taken), how each
    check came out with its value and margin, why the motion `stopped`, or what makes no sense (`broken`)."""

    numbers: Numbers
    values: Mapping[str, float | None] = field(default_factory=dict)
    outcomes: Mapping[str, Outcome] = field(default_factory=dict)
    found: Mapping[str, float | None] = field(default_factory=dict)
    margins: Mapping[str, float | None] = field(default_factory=dict)
    stopped: str = ""
    broken: str = ""

    @property
    def passes(self) -> bool:
        """Whether it moves to its end, and every check that was judged is known to hold."""
        passed = all(outcome is Outcome.PASS for outcome in self.outcomes.values())
        return passed and not self.broken and not self.stopped


def left_out(document: Document, clearance: bool) -> tuple[str, ...]:
    """The checks that are not judged where clearances are not."""
    return () if clearance else tuple(name for name, one in document.checks.items() if one.measure == "clearance")


def all_judged(document: Document, without: tuple[str, ...]) -> str:
    """What builds pass that pass all that was judged, in words."""
    if not document.checks:
        return "no check, for there is none"
    return f"all checks but {len(without)} of clearances, not judged" if without else "all checks"


def built(
    builds: Builds,
    numbers: Numbers,
    findings: Sequence[Finding],
    clearance: bool = True,
    work: CancellationToken | None = None,
    only: str | None = None,
) -> Build:
    """One build, moved and judged. Without `clearance` the checks of clearances are left out; with `only` all checks
    but that one."""
    try:
        motion: Motion | DocumentError = builds.motion_with(numbers, work)
    except DocumentError as error:
        motion = error
    return _judged(numbers, motion, findings, clearance, work, only)


def built_together(
    builds: Builds, several: Sequence[Numbers], findings: Sequence[Finding], clearance: bool = True,
    work: CancellationToken | None = None,
) -> Iterator[Build]:  # fmt: skip
    """Builds one after the other, what can be found of all at once found so."""
    for numbers, motion in zip(several, builds.motions_with(several, work), strict=True):
        yield _judged(numbers, motion, findings, clearance, work)


def _judged(
    numbers: Numbers, motion: Motion | DocumentError, findings: Sequence[Finding], clearance: bool,
    work: CancellationToken | None, only: str | None = None,
) -> Build:  # fmt: skip
    if isinstance(motion, DocumentError):
        return Build(numbers, broken=str(motion.faults[0]))
    motion = motion.with_checks(
        lambda check: only in (None, check.id) and (clearance or check.measure != "clearance")
    )
    approaches = _approaches(motion, work)
    verdicts = judge(motion, approaches, work)
    values = {one.name: value_of(motion, one, verdicts) for one in findings}
    return Build(
        numbers,
        values,
        {name: verdict.outcome for name, verdict in verdicts.items()},
        {name: verdict.value for name, verdict in verdicts.items()},
        {name: verdict.margin for name, verdict in verdicts.items()},
        motion.stop.text if motion.stop is not None else "",
    )


def verdicts_of(
    motion: Motion, clearance: bool = True, work: CancellationToken | None = None
) -> dict[str, Verdict]:
    """How the checks of a build come out; without `clearance` those of clearances are left out."""
    motion = motion.with_checks(lambda check: clearance or check.measure != "clearance")
    return judge(motion, _approaches(motion, work), work)


def value_of(motion: Motion, one: Finding, verdicts: Mapping[str, Verdict]) -> float | None:
    """What a finding is in a motion; None where it can't be taken."""
    if one.check:
        verdict = verdicts.get(one.check)
        return verdict.value if verdict is not None else None
    assert one.measure is not None
    try:
        ends = ends_of(one.measure, motion)
    except DocumentError:
        return None
    return {"min": ends.low, "max": ends.high, "travel": ends.high - ends.low}[one.end]


def _approaches(motion: Motion, work: CancellationToken | None) -> "dict[frozenset[str], Approach]":
    """The closest approach of the pairs that checks speak of."""
    pairs = [check.parts for check in motion.document.checks.values() if check.parts is not None]
    if not pairs:
        return {}
    from ..clearance.approach import closest_approaches
    from ..clearance.pairs import pairs_to_watch

    named = {frozenset(pair) for pair in pairs}
    wanted = [pair for pair in pairs_to_watch(motion.document) if frozenset(pair) in named]
    return {frozenset(found.parts): found for found in closest_approaches(motion, wanted, work)}


def is_whole(document: Document, check: str) -> bool:
    """Whether the value of a check tells all of it: it has one bound, or is one number."""
    one = document.checks[check]
    return MEASURE_TYPES[one.measure].whole or None in (one.at_least, one.at_most)
