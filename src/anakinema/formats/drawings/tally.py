"""What reading a drawing comes to beside its curves: what was left out, what was mended, how much was looked at."""

from collections import Counter

from ...errors import located

MOST, MOST_SEEN, DEEPEST = 200_000, 200_000, 32
"""Lines and arcs that are read; things that are looked at, those of blocks and symbols wherever they are used; how deep
they may be nested."""
NAMED = 8
"""Kinds that are told by name."""


class Tally:
    """Counts what is looked at, and what is left out, by its kind and why."""

    def __init__(self) -> None:
        self.seen = self.pieces = self.flattened = 0
        self.out: Counter[str] = Counter()
        self.mended: list[str] = []

    def see(self) -> None:
        """One more thing. Raises `DocumentError` where there are too many."""
        self.seen += 1
        if self.seen > MOST_SEEN:
            text = f"holds more than {MOST_SEEN:,} things, those of blocks counted wherever they stand"
            raise located("", f"{text}; no outline needs that")

    def took(self, pieces: int, curves: int = 0) -> None:
        """So many lines and arcs more, of so many curves that are neither. Raises `DocumentError` for too many."""
        self.pieces += pieces
        self.flattened += curves
        if self.pieces > MOST:
            raise located("", f"holds more than {MOST:,} lines and arcs; no outline needs that")

    def leave(self, what: str, count: int = 1) -> None:
        """Something is left out."""
        self.out[what] += count

    @property
    def complete(self) -> bool:
        """Whether all came as it was."""
        return not self.out and not self.mended

    @property
    def report(self) -> list[str]:
        """All of it, a line each."""
        told = list(self.mended)
        if self.flattened:
            told.append(f"{self.flattened} curves that are no arcs were made of straight pieces")
        if self.out:
            every = [f"{number} {what}" for what, number in self.out.most_common(NAMED)]
            more = [f"{len(self.out) - NAMED} other kinds"] if len(self.out) > NAMED else []
            told.append(f"left out: {', '.join([*every, *more])}")
        return told
