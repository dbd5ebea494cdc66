"""What is found of how a mechanism is made: a sentence, the rule and where that is from, the place, what mends it."""

from collections.abc import Sequence
from dataclasses import dataclass

from ...document.changes import Change
from ...document.model import Document

PRACTICE = "common practice, no source"


@dataclass(frozen=True)
class ShopFinding:
    """One finding. `name` and `of` (parts) tell it from others, through all edits that leave it as it is; by them it is
    waived. `at` is a place in the axes of the first part, `t` a moment of the motion, where there is one."""

    name: str
    of: tuple[str, ...]
    text: str
    source: str
    at: complex | None = None
    t: float | None = None
    mend: tuple[Change, ...] = ()
    waived: str = ""
    """Why it is left as it is; empty where it is not."""

    @property
    def place(self) -> str:
        """The place in the document that it speaks of."""
        return f"parts.{self.of[0]}"

    @property
    def key(self) -> tuple[str, tuple[str, ...]]:
        """What tells it from others."""
        return self.name, self.of


def with_waivers(document: Document, found: Sequence[ShopFinding]) -> tuple[ShopFinding, ...]:
    """The findings with the reasons of those that are waived; those that are not come first."""
    reasons = {(one.finding, one.of): one.reason for one in document.waived.values()}
    told = [
        finding if finding.key not in reasons else
        ShopFinding(finding.name, finding.of, finding.text, finding.source, finding.at, finding.t, (),
                    reasons[finding.key]) for finding in found
    ]  # fmt: skip
    return tuple(sorted(told, key=lambda one: bool(one.waived)))
