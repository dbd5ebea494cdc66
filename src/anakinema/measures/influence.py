"""How fast everything goes where one driver goes at unit rate and all others hold: the influence of a driver."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array, Mask

if TYPE_CHECKING:
    from ..kinematics.motion import Motion

SLOW = 1e-5
"""Share of its greatest rate below which a driver's rate does not tell how fast a joint moves for each unit of it."""
REGULAR = 1e-7
"""Least pivot of equations by which the driver decides the rates; below it stands at a dead point."""


def tells(motion: "Motion", t: Array, driver: int = 0) -> Mask:
    """(S,) whether the motion itself tells at times t (S,) how fast all goes for each unit of a driver: it moves, and
    nothing else is driven. That holds where contacts have a say, too."""
    drive, first = motion.drive, motion.system.coordinates.index(motion.drive.drivers[driver].joint)
    fastest = float(np.abs(motion.between.rates[:, first]).max(initial=0.0)) if len(drive.commanded) == 1 else 0.0
    if fastest == 0.0:
        return np.zeros(t.size, dtype=np.bool_)
    return np.abs(motion.at(t).rates[:, first]) > SLOW * fastest


def unit_rates(motion: "Motion", t: Array, driver: int = 0) -> tuple[Array, Mask]:
    """(S, P, 3) velocities at times t (S,), dimensionless, where a driver, by its number, goes at unit rate and all
    others hold; (S,) where that decides them, which it does not at a dead point of the driver."""
    drive, places, targets = motion.drive, motion.path.positions(t), motion.path.targets(t)
    unit = np.zeros(targets.shape[1])
    unit[driver] = 1.0
    found, regular = np.empty_like(places), np.empty(t.size, dtype=np.bool_)
    for i, q in enumerate(places):
        if drive.minimum_norm is not None:
            found[i], size = drive.minimum_norm.rate(q, unit)
            regular[i] = np.isfinite(size)
        else:
            spread, found[i], _, _ = drive.equations.settle(q.copy(), targets[i], unit, 0 * unit)
            regular[i] = spread > REGULAR
    return found, regular
