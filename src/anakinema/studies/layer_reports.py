"""Arrangements of layers and swept areas as text, table and object, in the document's units."""

import csv
import io
from typing import Any

from ..clearance.swept import Swept
from ..document.model import Document
from ..formats.results import aligned
from ..formatting import in_document_units, shown
from ..kinds import Dimension
from .arranging import Arrangement, Clash


def arrangement_text(document: Document, found: Arrangement) -> str:
    """The layers from the front, what moves, or what is in each other's way."""
    units = document.units
    if not found.possible:
        told = ["no order of layers keeps these out of each other's way"]
        told += list(dict.fromkeys(f"  {clash_words(document, clash)}" for clash in found.clashes))
        return "\n".join(told) + "\n"
    word = "fewest possible" if found.proven else "not proven least"
    rows: list[tuple[str, ...]] = [("layer", "parts")]
    rows += [(str(number), ", ".join(parts)) for number, parts in reversed(list(enumerate(found.layers, 1)))]
    lines = aligned(rows, right=(0,)) + f"{len(found.layers)} layers, {word}\n"
    for move in found.moves:
        ends = [" to ".join(shown(end, "number", units, 3) for end in span) for span in (move.before, move.after)]
        lines += f"{move.part}: {ends[0]} → {ends[1]} {units.length}\n"
    return lines if found.moves else lines + "nothing moves\n"


def clash_words(document: Document, clash: Clash) -> str:
    """Which parts, and where."""
    return f"{' and '.join(clash.parts)}{_at(document, clash.driver)}"


def _at(document: Document, driver: float | None) -> str:
    """Where that is, by the first driver."""
    first = next(iter(document.drivers.values()), None)
    if driver is None or first is None:
        return ""
    joint = document.joints[first.joint]
    dimension = joint.kind.coordinate_dimension(joint.values) or Dimension.ANGLE
    return f" at {shown(driver, dimension, document.units, 2)}"


def arrangement_csv(document: Document, found: Arrangement) -> str:
    """A row for each part: its layer from the back, from and to."""
    after = {move.part: move.after for move in found.moves}
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("part", "layer", "from", "to"))
    for number, parts in enumerate(found.layers, 1):
        for part in parts:
            writer.writerow((part, number, *after.get(part, document.parts[part].depth)))
    return out.getvalue()


def arrangement_json(document: Document, found: Arrangement) -> dict[str, Any]:
    """All of it."""
    first = next(iter(document.drivers.values()), None)
    joint = document.joints[first.joint] if first is not None else None
    dimension = joint.kind.coordinate_dimension(joint.values) if joint is not None else None
    return {
        "layers": [list(parts) for parts in found.layers],
        "proven": found.proven,
        "moves": {move.part: {"from": list(move.before), "to": list(move.after)} for move in found.moves},
        "clashes": [{"parts": list(clash.parts), "driver": None if clash.driver is None or dimension is None
                     else in_document_units(clash.driver, dimension, document.units)} for clash in found.clashes],
    }  # fmt: skip


def swept_text(document: Document, found: Swept) -> str:
    """Area, extent and error."""
    low_x, low_y, high_x, high_y = found.area.bounds
    unit = document.units.length
    seen = f", seen from {found.on}" if found.on else ""
    return (f"{', '.join(found.parts)}{seen}: {found.area.area:.6g} {unit}² swept, {high_x - low_x:.6g} × "
            f"{high_y - low_y:.6g} {unit}, from ({low_x:.6g}, {low_y:.6g})\n"
            f"its outline may be off by {found.error:.3g} {unit}\n")  # fmt: skip


def swept_csv(found: Swept) -> str:
    """Its outlines: the number of the ring, x and y of each corner."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("ring", "x", "y"))
    for number, ring in enumerate(found.rings):
        writer.writerows((number, z.real, z.imag) for z in ring.tolist())
    return out.getvalue()


def swept_json(found: Swept) -> dict[str, Any]:
    """All of it."""
    return {"parts": list(found.parts), "on": found.on or None, "area": found.area.area, "error": found.error,
            "rings": [[[z.real, z.imag] for z in ring.tolist()] for ring in found.rings]}  # fmt: skip
