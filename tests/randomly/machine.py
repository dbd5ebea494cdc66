"""What became of a stretch of time: how much the machine's owner took away, how long the program stood in line."""

import os
import time
from pathlib import Path
from typing import NamedTuple

TICK = 1 / os.sysconf("SC_CLK_TCK")
STAT, TURNS = Path("/proc/stat"), Path("/proc/thread-self/schedstat")
STOLEN = 8
"""The field of a processor's line in /proc/stat that counts what the host gave to others while a program here could
have run (man 5 proc)."""


class Clocks(NamedTuple):
    """Readings in seconds: of this thread, but for `stolen`, which has one for each processor."""

    now: float
    worked: float
    """On a processor. A virtual machine counts here what was stolen meanwhile, too."""
    waited: float
    """Ready to run, but another program had the processor."""
    stolen: tuple[float, ...]

    @classmethod
    def read(cls) -> "Clocks":
        """The clocks as they stand; what this system does not tell is 0."""
        try:
            lines = [line.split() for line in STAT.read_text().splitlines() if line.startswith("cpu")]
            stolen = tuple(int(line[STOLEN]) * TICK for line in lines if line[0] != "cpu")
            waited = int(TURNS.read_text().split()[1]) * 1e-9
        except (OSError, IndexError):
            stolen, waited = (0.0,), 0.0
        return cls(time.perf_counter(), time.thread_time(), waited, stolen)

    def since(self, before: "Clocks") -> "Clocks":
        """What passed between two readings."""
        stolen = tuple(after - earlier for after, earlier in zip(self.stolen, before.stolen, strict=True))
        return Clocks(self.now - before.now, self.worked - before.worked, self.waited - before.waited, stolen)

    @property
    def own(self) -> float:
        """What is left of a time when the machine's part is taken from it. A thread is on one processor at a time, so
        that no more than what the processor most stolen from lost is the machine's for sure."""
        return max(self.now - max(self.stolen), 0.0)
