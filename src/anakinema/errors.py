"""The one kind of error that a user's own document or request can cause."""

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

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
    if len(known) > 60:  # comparing with all would take its time
        index = _one_letter_less(tuple(known))
        near = [other for less in _less(word) for other in index.get(less, ())][:1]
    else:
        near = get_close_matches(word, list(known), n=1, cutoff=0.6)
    return f" (did you mean '{near[0]}'?)" if near else ""


@lru_cache(maxsize=16)
def _one_letter_less(known: tuple[str, ...]) -> dict[str, list[str]]:
    """Words by themselves, and by what they are without one of their letters: two of one slip meet in one of those."""
    index: dict[str, list[str]] = {}
    for word in known:
        for less in _less(word):
            index.setdefault(less, []).append(word)
    return index


def _less(word: str) -> list[str]:
    return [word, *(word[:k] + word[k + 1 :] for k in range(min(len(word), 60)))]


def listed(names: Sequence[str], most: int = 8) -> str:
    """Names in a sentence: ``O and P``, ``a, b and 9 more``.

    >>> listed(["O", "P", "Q"])
    'O, P and Q'
    """
    names = [*names[:most], f"{len(names) - most} more"] if len(names) > most + 1 else list(names)
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)
