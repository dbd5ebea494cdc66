"""The table of pairs: how near each comes, what is wanted of it, where it is worst, how certain that is."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..clearance.pairs import wanted_gaps
from ..document.model import Check, Document

if TYPE_CHECKING:
    from ..clearance.approach import Approach
    from ..clearance.joined import SameDepth


@dataclass(frozen=True)
class Gap:
    """One pair of parts: its least signed distance (None: not found) and what it is certainly not below, the gap that
    a check wants and by how much that is exceeded (lengths), time and first driver's coordinate where it is worst."""

    parts: tuple[str, str]
    distance: float | None
    low: float
    proven: bool
    reason: str
    check: str
    """The check that wants a gap; empty where none does."""
    wanted: float | None
    margin: float
    """Over what is wanted, or over touching; of a pair that is not judged yet by what is certain."""
    t: float
    driver: float | None
    ignored: str = ""
    """Why the pair need not be watched; empty where it is."""
    place: str = ""
    """Where in the document that is said."""
    joint: str = ""
    """The joint of two parts that fill the same depth; empty for all others."""


def gaps(
    document: Document, approaches: "Sequence[Approach]", same_depth: "Sequence[SameDepth]" = ()
) -> tuple[Gap, ...]:
    """All pairs, joined parts that fill the same depth first, then the least margin; those that are ignored come
    last."""
    wanted = wanted_gaps(document)
    found = [_gap(approach, wanted) for approach in approaches]
    watched = {frozenset(gap.parts) for gap in found}
    found.sort(key=lambda gap: gap.margin)
    together = [_together(pair) for pair in same_depth if frozenset(pair.parts) not in watched]
    return (*together, *found, *(_ignored(document, key) for key in document.ignored if key not in watched))


def _gap(approach: "Approach", wanted: Mapping[frozenset[str], Check]) -> Gap:
    check = wanted.get(frozenset(approach.parts))
    least = check.at_least if check is not None else None
    known = approach.low if approach.distance is None else approach.distance
    return Gap(
        approach.parts, approach.distance, approach.low, approach.proven, approach.reason,
        check.id if check is not None else "", least, known - (least or 0.0), approach.t, approach.driver,
    )


def _together(pair: "SameDepth") -> Gap:
    reason = f"joined by '{pair.joint}', they fill the same depth: put {pair.front} in front"
    return Gap(pair.parts, None, -math.inf, False, reason, "", None, -math.inf, 0.0, None, joint=pair.joint)


def _ignored(document: Document, key: frozenset[str]) -> Gap:
    said = document.ignored[key]
    return Gap(said.parts, None, -math.inf, False, "", "", None, math.inf, 0.0, None, said.ignore, f"pairs.{said.id}")
