"""Screws and pins: their nuts, their lengths, what holds them, what turns them loose."""

from collections.abc import Iterator

from ...document.changes import Remove
from ...document.model import PointRef
from .finding import PRACTICE, ShopFinding
from .stacks import TOUCHING, Piece, Shop

SOFT, STEEL = 1.5, 1.0
"""Diameters of thread that must hold in soft metal, and in steel (common practice, no source)."""
SOFT_METALS = ("aluminium", "brass", "POM", "PA6", "zinc")
MOST_PROUD = 4.0
"""Pitches that may stand proud of a nut before a shorter screw is meant."""


def of_screws(shop: Shop) -> Iterator[ShopFinding]:
    """What is to be said of screws, shoulder screws and pins."""
    for piece in shop.pieces:
        one = piece.hardware
        if one.unfit:
            yield ShopFinding("no longer fits", (piece.id,), f"'{piece.id}' no longer fits: {one.unfit}", PRACTICE)
        if one.kind.threaded:
            yield from _threaded(shop, piece)
        elif one.kind.long and not one.kind.turns:
            yield from _held(shop, piece)
        if one.kind.long and one.given is not None and one.row.lengths:
            made = [each * shop.per for each in one.row.lengths]
            if min(abs(each - one.given) for each in made) > TOUCHING:
                near = min(made, key=lambda each: abs(each - (one.given or 0.0)))
                text = f"'{piece.id}' is not made {shop.length(one.given)} long; the nearest is {shop.length(near)}"
                yield ShopFinding("no such length", (piece.id,), text, one.table.source)


def _threaded(shop: Shop, piece: Piece) -> Iterator[ShopFinding]:
    one = piece.hardware
    goal = shop.by_name.get(one.to)
    nut = goal if goal is not None and goal.hardware.kind.on_screw else None
    nut = nut or next((each for each in shop.together(piece) if each.hardware.kind.on_screw), None)
    if nut is not None:
        yield from _to_nut(shop, piece, nut)
        yield from _turned_loose(shop, piece, nut)
        return
    ref = next((ref for ref in one.axis if ref.part == one.to), None)
    if ref is None and one.through:
        ref = one.through[-1]
    thread = one.row["thread"] * shop.per
    hole = shop.hole(ref, _reach(piece)) if ref is not None else None
    if ref is None or (hole is not None and hole >= thread - TOUCHING):
        text = f"'{piece.id}' has no nut, and what it goes through has no thread for it"
        yield ShopFinding("no nut", (piece.id,), text, PRACTICE)
        return
    yield from _into_part(shop, piece, ref, thread)


def _reach(piece: Piece) -> tuple[float, float]:
    """From where to where it lies, head and all."""
    return piece.part.depth


def _to_nut(shop: Shop, piece: Piece, nut: Piece) -> Iterator[ShopFinding]:
    """Whether one or two threads stand proud of the nut."""
    one, pitch = piece.hardware, piece.hardware.row["pitch"] * shop.per
    if nut.hardware.size != one.size and abs(nut.hardware.row["thread"] - one.row["thread"]) > TOUCHING:
        text = f"'{nut.id}' is {nut.hardware.size}, '{piece.id}' is {one.size}: they don't fit each other"
        yield ShopFinding("nut of another size", (nut.id, piece.id), text, one.table.source)
        return
    low, high = nut.part.depth
    tip = one.face - one.way * (one.length + (one.row["tail"] * shop.per if "tail" in one.row.sizes else 0.0))
    proud = low - tip if one.front else tip - high
    own = (*shop.document.home("parts", piece.id), "hardware", "length")
    mend = (Remove(own),) if one.given is not None else ()
    if proud < pitch - TOUCHING:
        words = (f"ends {shop.length(-proud)} before the far face of '{nut.id}'" if proud < 0 else
                 f"stands only {shop.length(proud)} proud of '{nut.id}'")  # fmt: skip
        text = f"'{piece.id}' is too short: it {words}; a thread ({shop.length(pitch)}) should"
        yield ShopFinding("too short", (piece.id,), text, PRACTICE, mend=mend)
    elif proud > MOST_PROUD * pitch and _shorter(piece, shop, proud - pitch):
        text = (f"'{piece.id}' is too long: it stands {shop.length(proud)} proud of '{nut.id}'; one or two threads are "
                "enough")  # fmt: skip
        yield ShopFinding("too long", (piece.id,), text, PRACTICE, mend=mend)


def _shorter(piece: Piece, shop: Shop, by: float) -> bool:
    """Whether it is made shorter by no more than so much."""
    one = piece.hardware
    return any(0 < one.length - each * shop.per <= by + TOUCHING for each in one.row.lengths)


def _turned_loose(shop: Shop, piece: Piece, nut: Piece) -> Iterator[ShopFinding]:
    """A nut or a head that lies on what turns is turned by that; only friction holds it."""
    if nut.hardware.standard == "ISO 10511":
        return
    for end in (piece, nut):
        under = _under(shop, end)
        if under and shop.bodies[under] != shop.bodies[end.hardware.at.part] and not _clamped(shop, piece):
            text = (f"'{under}' turns under '{end.id}' and can turn it loose: only friction holds '{nut.id}'; take a "
                    "lock nut (ISO 10511)")  # fmt: skip
            yield ShopFinding("turned loose", (nut.id, piece.id), text, PRACTICE)
            return


def _clamped(shop: Shop, piece: Piece) -> bool:
    """Whether a spacer or a shoulder takes the screw's pull, so that nothing that turns does."""
    return "shoulder" in piece.hardware.row.sizes or any(
        each.hardware.kind.fills for each in shop.together(piece))


def _under(shop: Shop, piece: Piece) -> str:
    """The part, no hardware, on which a piece lies at last."""
    seat, seen = piece.hardware.seat, set()
    while seat in shop.by_name and seat not in seen:
        seen.add(seat)
        seat = shop.by_name[seat].hardware.seat
    return seat


def _into_part(shop: Shop, piece: Piece, ref: PointRef, thread: float) -> Iterator[ShopFinding]:
    """Whether enough thread holds in a part."""
    one = piece.hardware
    depth = shop.depth_at(ref, 1.6 * thread)
    if depth is None:
        return
    low, high = _reach(piece)
    held = min(high, depth[1], one.face if one.front else high) - max(low, depth[0], low if one.front else one.face)
    metal = shop.document.parts[ref.part].item.material
    wanted = (SOFT if metal in SOFT_METALS else STEEL) * thread
    if held < wanted - TOUCHING:
        what = "soft metal" if wanted > thread else "steel"
        text = (f"'{piece.id}' is too short: {shop.length(max(held, 0.0))} of its thread holds in '{ref.part}', "
                f"{shop.length(wanted)} should ({wanted / thread:g} diameters in {what})")  # fmt: skip
        yield ShopFinding("too short", (piece.id,), text, PRACTICE)


def _held(shop: Shop, piece: Piece) -> Iterator[ShopFinding]:
    """Whether a pin stays where it is: pressed in, or held at both ends."""
    one = piece.hardware
    diameter = one.row["diameter"] * shop.per
    holes = [shop.hole(ref, _reach(piece)) for ref in one.axis]
    pressed = any(hole is not None and 0 < hole <= diameter + TOUCHING for hole in holes)
    ends = sum(each.hardware.kind.holds for each in shop.together(piece)) + one.kind.headed
    if pressed or ends >= 2:
        return
    where = "one end" if ends else "either end"
    text = (f"Nothing holds '{piece.id}' along its axis at {where}: press it in a hole of its own size, or put a ring, "
            "a collar or a nut there")  # fmt: skip
    yield ShopFinding("not held", (piece.id,), text, PRACTICE)
