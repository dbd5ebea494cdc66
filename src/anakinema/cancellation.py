"""Work that may be called off: every loop that can be long asks it whether it is still wanted."""

import time
from collections.abc import Callable


class Cancelled(Exception):
    """Raised inside work that is no longer wanted."""


class CancellationToken:
    """A piece of work, as those who do it see it.

    `wanted` tells whether to go on; `tell` is given the share done (0 to 1).

    >>> CancellationToken().check()
    """

    def __init__(
        self, wanted: Callable[[], bool] = lambda: True, tell: Callable[[float], None] = lambda share: None
    ):
        self._wanted, self._tell = wanted, tell

    def check(self) -> None:
        """Raises `Cancelled` when the work is no longer wanted."""
        if not self._wanted():
            raise Cancelled

    def within(self, seconds: float, refusal: Callable[[], Exception]) -> "CancellationToken":
        """The same work with a budget of its thread's processor time, after which it is refused."""
        end = time.thread_time() + seconds

        def wanted() -> bool:
            if time.thread_time() > end:
                raise refusal()
            return self._wanted()

        return CancellationToken(wanted, self._tell)

    def done(self, share: float) -> None:
        """Tells the share that is done, and checks."""
        self.check()
        self._tell(share)

    def part(self, low: float, high: float) -> "CancellationToken":
        """A part of the work, from one share of it to another."""
        return CancellationToken(self._wanted, lambda share: self._tell(low + (high - low) * share))
