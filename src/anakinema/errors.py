"""The one kind of error that a user's own document or request can cause."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

LONG = re.compile(r"[^\s'.]{61,}")
"""Names so long that they would push the reason off its line."""


@dataclass(frozen=True)
class Fault:
    """Something wrong at a place of a document.

    `place` is the dotted path in the file (``parts.crank.points.P``), empty for the file as a whole; `text` names
    the thing and, where there is one, the mend.
    """

    place: str
    text: str

    def __str__(self) -> str:
        return elided(f"{self.place}: {self.text}" if self.place else self.text)


def elided(text: str) -> str:
    """A text with the middle of its over-long names left out."""
    return LONG.sub(lambda found: f"{found[0][:40]}…{found[0][-12:]}", text)


class DocumentError(Exception):
    """A document that can't be read or makes no sense. Holds every fault found, in file order."""

    def __init__(self, faults: Sequence[Fault]):
        self.faults = tuple(faults)
        super().__init__("\n".join(map(str, self.faults)))

    def __reduce__(self) -> "tuple[type[DocumentError], tuple[tuple[Fault, ...]]]":
        return type(self), (self.faults,)  # whole where it goes to another process


def located(place: str, text: str) -> DocumentError:
    """A `DocumentError` of one fault."""
    return DocumentError([Fault(place, text)])


def suggestion(word: str, known: Sequence[str]) -> str:
    """`` (did you mean 'x'?)`` for the nearest known word, or nothing."""
    from difflib import get_close_matches

    if len(word) > 60:
        return ""
    if len(known) > 60:  # comparing with all would take its time: those that are about as long and begin or end alike
        size, ends = len(word), (word[:1], word[-1:])
        known = [other for other in known if abs(len(other) - size) <= 2 and (other[:1], other[-1:]) != ends][:40] + [
            other for other in known if abs(len(other) - size) <= 2 and (other[:1], other[-1:]) == ends
        ][:40]
    near = get_close_matches(word, list(known), n=1, cutoff=0.6)
    return f" (did you mean '{near[0]}'?)" if near else ""


def listed(names: Sequence[str], most: int = 8) -> str:
    """Names in a sentence: ``O and P``, ``a, b and 9 more``.

    >>> listed(["O", "P", "Q"])
    'O, P and Q'
    """
    names = [*names[:most], f"{len(names) - most} more"] if len(names) > most + 1 else list(names)
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
