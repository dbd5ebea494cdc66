"""Mass, centre of mass and moment of inertia of parts, groups and the whole, and which way the weight moves it.

A part is its outlines times their thickness, of one material. Lengths are the document's; masses kg. Moments of inertia
are about an axis normal to the front plane: parts move in planes.
"""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

import numpy as np

from ..arrays import Array
from ..document.model import Document, Part
from ..errors import suggestion
from ..geometry.mass import moments
from ..kinds import MM_IN
from ..materials import DENSITIES
from ..measures.influence import tells, unit_rates
from .motion import Motion

GRAVITY = 9.80665
"""Standard acceleration of free fall (m/s²; ISO 80000-3)."""
LITTLE = 1e-9
"""Share of a weight's lift below which it is none."""


@dataclass(frozen=True)
class Mass:
    """A mass (kg), its centre (x + i y, document lengths) and moment of inertia about it (kg · length²)."""

    mass: float
    center: complex
    inertia: float


def density_of(document: Document, part: Part) -> float | None:
    """The density of a part (kg/m³), or None where it is not known."""
    item = part.item
    if item.density is not None:
        return item.density
    return document.materials.get(item.material, DENSITIES.get(item.material))


def lacking(document: Document, part: Part) -> str:
    """Why the mass of a part is not known."""
    if density_of(document, part) is not None:
        return f"'{part.id}' has an outline that encloses nothing"
    material = part.item.material
    if not material:
        return f"'{part.id}' has no material: choose one, or give its density"
    return f"the density of '{material}' is not known{suggestion(material, [*DENSITIES, *document.materials])}"


def mass_of(document: Document, part: Part) -> Mass | None:
    """The mass of a part in its own axes; None where its density is not known, or it has no outline."""
    density = density_of(document, part)
    if density is None or not part.slabs:
        return None
    return part_mass(part, density * (MM_IN[document.units.length] / 1000.0) ** 3)


def part_mass(part: Part, density: float) -> Mass:
    """The mass of a part of a density (kg for a cube of one document length)."""
    found = [moments(slab.region.edges).times(density * (slab.high - slab.low)) for slab in part.slabs]
    total = found[0]
    for one in found[1:]:
        total += one
    center = total.first / total.area  # the area is by now the mass
    return Mass(total.area, center, total.polar - total.area * abs(center) ** 2)


def masses(document: Document) -> dict[str, Mass]:
    """Those of all parts of which they are known."""
    return {name: found for name, part in document.parts.items() if (found := mass_of(document, part)) is not None}


def masses_in(motion: Motion) -> dict[str, Mass]:
    """Those of the parts of a motion, found once."""
    found: dict[str, Mass] | None = motion.kept.get(("masses",))
    if found is None:
        found = motion.kept["masses",] = masses(motion.document)
    return found


def together(found: Iterable[tuple[Mass, tuple[float, float, float]]]) -> Mass | None:
    """Several masses as one, each with where its part stands (document lengths, rad); None of none."""
    placed = [(one.mass, complex(x, y) + one.center * np.exp(1j * angle), one.inertia) for one, (x, y, angle) in found]
    total = sum(mass for mass, _, _ in placed)
    if not placed or total <= 0.0:
        return None
    center = sum(mass * at for mass, at, _ in placed) / total
    return Mass(total, complex(center), sum(own + mass * abs(at - center) ** 2 for mass, at, own in placed))


def center_along(motion: Motion, found: Mapping[str, Mass], t: Array) -> Array:
    """(S,) where the centre of some parts' masses is at times t (S,), as x + i y."""
    q, total = motion.positions(t), sum(one.mass for one in found.values())
    center = np.zeros(t.size, dtype=complex)
    for name, one in found.items():
        at = q[:, motion.system.body(name)]
        center += one.mass / total * (at[:, 0] + 1j * at[:, 1] + one.center * np.exp(1j * at[:, 2]))
    return center


@dataclass(frozen=True)
class Holding:
    """What the weight of all moving parts asks of the first driver at a moment: `effort` is the torque (N·m) or the
    force (N) that holds it there, friction left out, positive along the coordinate; let go it would `fall` the way in
    which the weight sinks: 1 as the coordinate grows, −1 as it falls, 0 where it is balanced."""

    effort: float
    fall: int


def holding(motion: Motion, t: float) -> Holding | None:
    """By the principle of virtual work, gravity along −y, all other drivers holding; None where nothing is driven,
    moves or has mass, or where the driver has a dead point then."""
    moving = motion.system.moving_parts
    found = {name: one for name, one in masses_in(motion).items() if name in moving}
    if not motion.drive.drivers or not found:
        return None
    at, system = np.array([t]), motion.system
    column = system.coordinates.index(motion.drive.drivers[0].joint)
    state = motion.at(at)
    angles, moved, rate = state.q[0, :, 2], state.v[0], float(state.rates[0, column])
    if not tells(motion, at)[0]:
        v, regular = unit_rates(motion, at)
        rates = system.coordinates.rates(motion.path.positions(at), v, 0 * v)[0]
        moved, rate = v[0] * system.size, float(rates[0, column] * motion.lengths[column]) if regular[0] else 0.0
    if rate == 0.0 or not np.isfinite(rate):
        return None
    rises, size = 0.0, 0.0
    for name, one in found.items():
        body = system.body(name)
        turn = moved[body, 2] * (one.center * np.exp(1j * angles[body])).real
        rises += one.mass * float(moved[body, 1] + turn)
        size += one.mass * float(np.abs(moved[body, :2]).sum() + abs(turn))
    per = rises / rate * MM_IN[motion.document.units.length] / 1000.0
    if system.coordinates.is_length[column]:
        per /= MM_IN[motion.document.units.length] / 1000.0
    fall = 0 if abs(rises) <= LITTLE * size else -1 if per > 0 else 1
    return Holding(GRAVITY * per if fall else 0.0, fall)
