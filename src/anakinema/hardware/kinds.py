"""What kinds of hardware there are: the solids of a piece, and what it does in a stack."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

Sizes = Mapping[str, float]


@dataclass(frozen=True)
class Solid:
    """A disc, ring or hexagon about the axis between two depths, counted from the seat outward; diameters, or across
    flats."""

    low: float
    high: float
    outer: float
    inner: float = 0.0
    hexagon: bool = False

    def scaled(self, by: float) -> "Solid":
        """In another unit of length."""
        return Solid(self.low * by, self.high * by, self.outer * by, self.inner * by, self.hexagon)


@dataclass(frozen=True)
class HardwareKind:
    """A kind: what its sizes make of it (`solids`, for a length where it is `long`), and what it does."""

    name: str
    solids: Callable[[Sizes, float], list[Solid]]
    long: bool = False
    """Made in lengths, of which one is chosen."""
    fills: bool = False
    """Cut to the length that there is between its seat and what it goes `to`."""
    threaded: bool = False
    """A screw: what it goes `to` is a nut or has its thread."""
    on_screw: bool = False
    """Turns on a thread, as a nut."""
    holds: bool = False
    """Keeps what lies behind it from coming off: a nut, a ring, a collar."""
    headed: bool = False
    """Has a head that keeps what lies under it."""
    turns: bool = False
    """A bearing: one side of it turns against the other."""
    shaft: str = ""
    """The size that is the diameter of what goes through holes, or into it."""


def _head(sizes: Sizes) -> Solid:
    if "flats" in sizes:
        return Solid(0.0, sizes["high"], sizes["flats"], hexagon=True)
    return Solid(0.0, sizes["high"], sizes["head"])


def _screw(sizes: Sizes, length: float) -> list[Solid]:
    return [_head(sizes), Solid(-length, 0.0, sizes["thread"])]


def _countersunk(sizes: Sizes, length: float) -> list[Solid]:
    high = min(sizes["high"], length / 2)
    return [Solid(-high, 0.0, sizes["head"]), Solid(-length, -high, sizes["thread"])]


def _shoulder(sizes: Sizes, length: float) -> list[Solid]:
    return [_head(sizes), Solid(-length, 0.0, sizes["shoulder"]),
            Solid(-length - sizes["tail"], -length, sizes["thread"])]  # fmt: skip


def _nut(sizes: Sizes, _: float) -> list[Solid]:
    return [Solid(0.0, sizes["high"], sizes["flats"], sizes["thread"], hexagon=True)]


def _ring(sizes: Sizes, _: float) -> list[Solid]:
    return [Solid(0.0, sizes["high"], sizes["outer"], sizes["inner"])]


def _bearing(sizes: Sizes, length: float) -> list[Solid]:
    deep = sizes.get("high", length)
    return [Solid(-deep, 0.0, sizes["outer"], sizes["inner"])]


KINDS: dict[str, HardwareKind] = {
    kind.name: kind
    for kind in (
        HardwareKind("screw", _screw, long=True, threaded=True, headed=True, shaft="thread"),
        HardwareKind("countersunk", _countersunk, long=True, threaded=True, headed=True, shaft="thread"),
        HardwareKind("headless", lambda sizes, length: [Solid(-length, 0.0, sizes["thread"])], long=True,
                     threaded=True, shaft="thread"),
        HardwareKind("shoulder", _shoulder, long=True, threaded=True, headed=True, shaft="shoulder"),
        HardwareKind("nut", _nut, on_screw=True, holds=True, shaft="thread"),
        HardwareKind("ring", _ring, shaft="for"),
        HardwareKind("tube", lambda sizes, length: [Solid(0.0, length, sizes["outer"], sizes["inner"])], fills=True,
                     shaft="inner"),
        HardwareKind("pin", lambda sizes, length: [Solid(-length, 0.0, sizes["diameter"])], long=True,
                     shaft="diameter"),
        HardwareKind("headed pin", lambda sizes, length: [_head(sizes), Solid(-length, 0.0, sizes["diameter"])],
                     long=True, headed=True, shaft="diameter"),
        HardwareKind("retainer", _ring, holds=True, shaft="for"),
        HardwareKind("plain bearing", _bearing, long=True, turns=True, shaft="inner"),
        HardwareKind("ball bearing", _bearing, turns=True, shaft="inner"),
    )
}  # fmt: skip
"""By name."""
