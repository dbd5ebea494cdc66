"""The one kind of error that a user's own document or request can cause."""

from collections.abc import Sequence
from dataclasses import dataclass


@dataclass(frozen=True)
class Fault:
    """Something wrong at a place of a document.

    `place` is the dotted path in the file (``parts.crank.points.P``), empty for the file as a whole; `text` names
    the thing and, where there is one, the mend.
    """

    place: str
    text: str

    def __str__(self) -> str:
        return f"{self.place}: {self.text}" if self.place else self.text


class DocumentError(Exception):
    """A document that can't be read or makes no sense. Holds every fault found, in file order."""

    def __init__(self, faults: Sequence[Fault]):
        self.faults = tuple(faults)
        super().__init__("\n".join(map(str, self.faults)))


def located(place: str, text: str) -> DocumentError:
    """A `DocumentError` of one fault."""
    return DocumentError([Fault(place, text)])


def suggestion(word: str, known: Sequence[str]) -> str:
    """`` (did you mean 'x'?)`` for the nearest known word, or nothing."""
    from difflib import get_close_matches

    near = get_close_matches(word, list(known), n=1, cutoff=0.6)
    return f" (did you mean '{near[0]}'?)" if near else ""
