"""Masses as a table and as JSON, in the document's units."""

from typing import Any

import numpy as np

from ..kinematics.masses import density_of, holding, lacking, masses_in, together
from ..kinematics.motion import Motion
from .results import aligned


def mass_json(motion: Motion) -> dict[str, Any]:
    """What is known of all masses: of parts in their own axes, of groups and the whole where the motion starts;
    `unknown` says why others are not; `holding` what their weight asks of the first driver at the start."""
    document = motion.document
    found, poses = masses_in(motion), _poses(motion)
    held = holding(motion, 0.0)
    wholes = {name: together((found[part], poses[part]) for part in group.parts if part in found)
              for name, group in document.groups.items()}  # fmt: skip
    moving = {part.id for part in document.parts.values() if not part.fixed}
    return {
        "parts": {name: {"mass": one.mass, "center": _pair(one.center), "inertia": one.inertia,
                         "density": density_of(document, document.parts[name])} for name, one in found.items()},
        "groups": {name: _whole(one) for name, one in wholes.items() if one is not None},
        "moving": _whole(together((found[part], poses[part]) for part in found if part in moving)),
        "whole": _whole(together((found[part], poses[part]) for part in found)),
        "unknown": {name: lacking(document, part) for name, part in document.parts.items()
                    if part.shapes and name not in found},
        "holding": None if held is None else {"effort": held.effort, "fall": held.fall},
    }  # fmt: skip


def mass_table(motion: Motion, told: dict[str, Any]) -> str:
    """What `mass_json` tells, a line a part, then groups, what moves, and the whole."""
    document, unit = motion.document, motion.document.units.length
    rows: list[tuple[str, ...]] = [("", "material", "mass kg", f"centre {unit}", f"inertia kg·{unit}²")]
    for name, one in told["parts"].items():
        rows.append((name, document.parts[name].item.material or f"{one['density']:g} kg/m³", *_cells(one)))
    rows += [(name, "group", *_cells(one)) for name, one in told["groups"].items()]
    rows += [(word, "", *_cells(told[word])) for word in ("moving", "whole") if told[word] is not None]
    lines = aligned(rows, right=(2, 3, 4)) if told["parts"] else "no part has a known mass\n"
    lines += "".join(f"{why}\n" for why in told["unknown"].values())
    if (held := told["holding"]) is not None and held["fall"]:
        driver = motion.drive.drivers[0].id
        straight = document.joints[motion.drive.drivers[0].joint].kind.straight
        way = "on" if held["fall"] > 0 else "back"
        lines += f"to hold {driver} at the start takes {held['effort']:.4g} {'N' if straight else 'N·m'}; "
        lines += f"let go it falls {way}, friction left out\n"
    return lines


def _cells(one: dict[str, Any]) -> tuple[str, ...]:
    x, y = one["center"]
    return f"{one['mass']:.6g}", f"{x:.4f}, {y:.4f}", f"{one['inertia']:.6g}"


def _poses(motion: Motion) -> dict[str, tuple[float, float, float]]:
    return motion.system.by_part(motion.positions(np.zeros(1))[0])


def _whole(one: Any) -> dict[str, Any] | None:
    return None if one is None else {"mass": one.mass, "center": _pair(one.center), "inertia": one.inertia}


def _pair(z: complex) -> list[float]:
    return [z.real, z.imag]
