"""What the product is measured against: a general root finder on the same nine equations, and the closed form."""

import numpy as np
from scipy.optimize import root

from .mechanisms import COUPLER, CRANK, GROUND, ROCKER, START


def by_root_finder(turn: float, steps: int) -> np.ndarray:
    """(steps+1, 9) positions x, y, θ of crank, coupler and rocker by SciPy's `root`, each from the last; no rates."""
    angles = np.radians(START) + np.radians(turn) * np.arange(steps + 1) / steps
    found = np.empty((steps + 1, 9))
    q = np.array([0, 0, np.radians(START), 30.64, 25.71, np.radians(20.3), GROUND, 0, np.radians(57.3)])

    def residual(q: np.ndarray, angle: float) -> list[float]:
        xa, ya, a, xb, yb, b, xc, yc, c = q.tolist()
        return [
            xa,
            ya,
            a - angle,
            xb - xa - CRANK * cos(a),
            yb - ya - CRANK * sin(a),
            xb + COUPLER * cos(b) - xc - ROCKER * cos(c),
            yb + COUPLER * sin(b) - yc - ROCKER * sin(c),
            xc - GROUND,
            yc,
        ]

    from math import cos, sin

    for k, angle in enumerate(angles):
        q = root(residual, q, args=(float(angle),)).x
        found[k] = q
    return found


def closed_form(turn: float, steps: int, speed: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Angles, angular velocities and accelerations (steps+1, 3) of crank, coupler and rocker, open branch, vectorised,
    for a crank that turns evenly."""
    a = np.radians(START) + np.radians(turn) * np.arange(steps + 1) / steps
    bx, by = CRANK * np.cos(a), CRANK * np.sin(a)
    dx, dy = GROUND - bx, -by
    far = np.hypot(dx, dy)
    base = np.arctan2(dy, dx)
    lift = np.arccos((far**2 + COUPLER**2 - ROCKER**2) / (2 * far * COUPLER))
    b = base + lift
    c = np.arctan2(by + COUPLER * np.sin(b), bx + COUPLER * np.cos(b) - GROUND)
    sine = np.sin(c - b)
    wb = CRANK * speed * np.sin(a - c) / (COUPLER * sine)
    wc = CRANK * speed * np.sin(a - b) / (ROCKER * sine)
    fx = -CRANK * speed**2 * np.cos(a) - COUPLER * wb**2 * np.cos(b) + ROCKER * wc**2 * np.cos(c)
    fy = -CRANK * speed**2 * np.sin(a) - COUPLER * wb**2 * np.sin(b) + ROCKER * wc**2 * np.sin(c)
    gb = (fx * np.cos(c) + fy * np.sin(c)) / (COUPLER * np.sin(b - c))
    gc = (fx * np.cos(b) + fy * np.sin(b)) / (ROCKER * np.sin(b - c))
    zero = np.zeros_like(a)
    return np.stack((a, b, c), 1), np.stack((speed + zero, wb, wc), 1), np.stack((zero, gb, gc), 1)
