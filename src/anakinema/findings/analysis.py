"""All findings of a document in one call: the motion, joint travel, clearances, checks, and what to do next."""

import time
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from ..cams.judgement import CamJudgement
from ..cancellation import CancellationToken
from ..document.model import Document
from ..kinematics.motion import Motion
from ..kinematics.simulation import simulate
from ..measures import Ends
from .advice import Advice, advise
from .behaviour import Behaviour, Linkage, behaviours, linkages
from .cams import cam_advice, cam_judgements
from .cautions import Caution, cautions
from .checks import Outcome, Verdict, judge
from .gaps import Gap, gaps
from .gears import GearFinding, gear_advice, gear_findings
from .measuring import measure_series, numbers_of, traced_paths, track_series
from .series import Series, TracedPath, clearance_series, contact_series, joint_series
from .shop import ShopFinding, shop_advice, shop_findings

if TYPE_CHECKING:
    from ..clearance.approach import Approach
    from ..clearance.joined import SameDepth

AGAIN = 0.25
"""Seconds between two tellings of what is certain so far."""


@dataclass(frozen=True)
class Findings:
    """What a motion shows: the one model that strip, card, report, JSON and the command line read."""

    motion: Motion
    approaches: "tuple[Approach, ...]"
    verdicts: Mapping[str, Verdict]
    advice: tuple[Advice, ...]
    series: tuple[Series, ...]
    """Of every joint with a coordinate, every measure, then of every clearance."""
    behaviours: Mapping[str, Behaviour]
    linkages: tuple[Linkage, ...]
    gaps: tuple[Gap, ...]
    """The table of all pairs, the least margin first."""
    tracks: "Mapping[str, Series | None]" = field(default_factory=dict)
    """What the document has the strip show, by the name of the track; None where it can't be told."""
    unwatched: int = 0
    """How many pairs are not watched, for there are too many."""
    same_depth: "tuple[SameDepth, ...]" = ()
    """Joined parts that fill the same depth."""
    cams: Mapping[str, CamJudgement] = field(default_factory=dict)
    """What is to be said of each cam whose follower is known."""
    numbers: Mapping[str, Ends] = field(default_factory=dict)
    """The measures of the document that are one number for the whole motion."""
    paths: Mapping[str, TracedPath] = field(default_factory=dict)
    """What there is to say of each trace."""
    shop: tuple[ShopFinding, ...] = ()
    """What is found of how it is made, without being asked."""
    cautions: tuple[Caution, ...] = ()
    """Where something can be caught, and what energy is stored."""
    gears: Mapping[str, GearFinding] = field(default_factory=dict)
    """What is to be said of wheels whose teeth mesh."""

    @property
    def document(self) -> Document:
        """The document that they are of."""
        return self.motion.document

    @property
    def closest(self) -> "Approach | None":
        """The pair that comes closest of all."""
        judged = [approach for approach in self.approaches if approach.distance is not None]
        return min(judged, key=lambda approach: approach.distance or 0.0, default=None)

    @property
    def failed(self) -> list[Verdict]:
        """The checks that are known not to hold."""
        return self.with_outcome(Outcome.FAIL)

    @property
    def open(self) -> list[Verdict]:
        """The checks that are not known to hold: failed ones first, then what is unproven or was not judged."""
        return [*self.failed, *self.with_outcome(Outcome.UNPROVEN), *self.with_outcome(Outcome.NOT_JUDGED)]

    def with_outcome(self, outcome: Outcome) -> list[Verdict]:
        """The checks that came out so."""
        return [verdict for verdict in self.verdicts.values() if verdict.outcome is outcome]

    def tally(self) -> str:
        """How many checks came out how: ``4 pass, 1 fails, 1 unproven``."""
        counts = {outcome: len(self.with_outcome(outcome)) for outcome in Outcome}
        counted = [f"{counts[Outcome.PASS]} pass", f"{counts[Outcome.FAIL]} fail"]
        counted += [f"{count} {outcome}" for outcome, count in list(counts.items())[2:] if count]
        return ", ".join(counted)


def analyse(
    document: Document,
    steps: int | None = None,
    work: CancellationToken | None = None,
    moved: Callable[[Motion], None] | None = None,
    gauged: Callable[[tuple[Gap, ...]], None] | None = None,
) -> Findings:
    """The findings of a document. Raises `DocumentError` where the document makes no sense as a mechanism, `Cancelled`
    where the work is no longer wanted. `moved` is given the motion as soon as it is known, before it is judged,
    `gauged` what is certain of the pairs so far, now and then."""
    work = work or CancellationToken()
    motion = simulate(document, steps, work.part(0.0, 0.4))
    work.done(0.4)
    if moved is not None:
        moved(motion)
    approaches: tuple[Approach, ...] = ()
    more = 0
    together: tuple[SameDepth, ...] = ()
    if any(part.shapes for part in document.parts.values()):
        from ..clearance.approach import closest_approaches
        from ..clearance.joined import same_depth
        from ..clearance.nearby import without_far_pieces
        from ..clearance.pairs import watched

        pairs, more = watched(document)
        pairs = without_far_pieces(motion, pairs)
        report = None if gauged is None else _now_and_then(document, gauged)
        together = same_depth(motion)
        approaches = tuple(closest_approaches(motion, pairs, work.part(0.4, 0.9), report))
    work.done(0.9)
    verdicts = judge(motion, {frozenset(approach.parts): approach for approach in approaches}, work.part(0.9, 0.95))
    work.check()
    clearances = [one for each in approaches if (one := clearance_series(motion, each)) is not None]
    measured = [one for each in document.measures.values() if (one := measure_series(motion, each)) is not None]
    cams = cam_judgements(document)
    gears = gear_findings(motion)
    shop = shop_findings(motion, approaches)
    advice = (*advise(motion, verdicts, more, together), *cam_advice(document, cams), *gear_advice(document, gears),
              *shop_advice(shop))  # fmt: skip
    found = Findings(
        motion, approaches, verdicts, advice, (*joint_series(motion), *contact_series(motion), *measured, *clearances),
        behaviours(motion), tuple(linkages(document)), gaps(document, approaches, together),
        _tracks(motion, clearances), more, together, cams, numbers_of(motion, approaches),
        traced_paths(motion), shop, cautions(motion), gears,
    )
    work.done(1.0)
    return found


def _tracks(motion: Motion, clearances: list[Series]) -> dict[str, Series | None]:
    """The tracks that the document wants; those of clearances are found already."""
    found: dict[str, Series | None] = {}
    for name, track in motion.document.tracks.items():
        if track.measured.kind == "clearance":
            wanted = set(track.measured.parts or ())
            near = next((each for each in clearances if set(each.parts or ()) == wanted), None)
            found[name] = None if near is None else replace(near, place=f"tracks.{name}")
        else:
            found[name] = track_series(motion, track)
    return found


def _now_and_then(
    document: Document, gauged: Callable[[tuple[Gap, ...]], None]
) -> "Callable[[list[Approach]], None]":
    """Tells the table of pairs, but not so often that telling takes longer than judging."""
    last = -AGAIN

    def tell(approaches: "list[Approach]") -> None:
        nonlocal last
        if time.monotonic() - last > AGAIN:
            gauged(gaps(document, approaches))
            last = time.monotonic()

    return tell
