"""Things tied together, in groups (disjoint sets)."""

from collections.abc import Iterable, Sequence


class DisjointSet:
    """Which things hang together, along whatever path. `several` are things that are tied from the start."""

    def __init__(self, several: Iterable[Sequence[str]] = ()) -> None:
        self._above: dict[str, str] = {}
        for things in several:
            for other in things[1:]:
                self.tie(things[0], other)

    def head(self, one: str) -> str:
        """The thing that stands for all that it hangs together with; itself where nothing was tied to it."""
        while (above := self._above.get(one, one)) != one:
            self._above[one] = self._above.get(above, above)
            one = above
        return one

    def tie(self, one: str, two: str) -> bool:
        """Ties two together; the first's group keeps its head. Whether they did not hang together before."""
        head, other = self.head(one), self.head(two)
        self._above[other] = head
        return head != other
