"""The five primitive rows with their analytic derivatives, each for many rows and many positions at once.

Arrays: `positions` q (S, P, 3) holds x, y, θ of P bodies at S positions. A row has six derivatives, by x, y, θ of body
a and of body b. For a row value e(q):

* `value`      e                                    (S, M)
* `linear`     e and ∂e/∂(x_a, y_a, θ_a, x_b, y_b, θ_b)   (S, M) and (S, M, 6)
* `quadratic`  γ, the part of ë without q̈           (S, M): ë = J q̈ + γ

Plane vectors are complex numbers z = x + i y. With the turned arm r = e^{iθ} p to a joint point, P = z + r,
dP/dθ = i r, d²P/dθ² = −r, and for two vectors Re(ū w) is the dot and Im(ū w) the cross product.
"""

from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.floating[Any]]
Plane = NDArray[np.complexfloating[Any, Any]]
Index = NDArray[np.intp]
Mask = NDArray[np.bool_]


class Rows:
    """M primitive rows of one kind between bodies `a` and `b` (M,), at local points `pa`, `pb` (M, 2).

    `constant` (M,) is the offset, direction or length of the kind; `width` the equations that each row gives.
    """

    width = 1

    def __init__(self, a: Index, b: Index, pa: Array, pb: Array, constant: Array):
        self.a, self.b, self.constant = a, b, constant
        self.count = a.size
        self._both = np.concatenate((a, b))
        local = np.concatenate((pa, pb))
        self._local: Plane = local[:, 0] + 1j * local[:, 1]

    def value(self, q: Array) -> Array:
        raise NotImplementedError

    def linear(self, q: Array) -> tuple[Array, Array]:
        """Value (S, M·width) and Jacobian (S, M·width, 6)."""
        raise NotImplementedError

    def quadratic(self, q: Array, v: Array) -> Array:
        raise NotImplementedError

    def arms(self, q: Array) -> tuple[Plane, Plane, Plane, Plane]:
        """r_a, r_b, d = P_b − P_a and e^{iθ_a}; each (S, M)."""
        at = q[:, self._both]
        turn = np.exp(1j * at[..., 2])
        arm = turn * self._local
        point = arm + at[..., 0]
        point.imag += at[..., 1]
        m = self.count
        return arm[:, :m], arm[:, m:], point[:, m:] - point[:, :m], turn[:, :m]

    def motion(self, v: Array, ra: Plane, rb: Plane) -> tuple[Plane, Plane, Array]:
        """ḋ, the part of d̈ without q̈, and θ̇ of a; each (S, M)."""
        va, vb = v[:, self.a], v[:, self.b]
        wa, wb = va[..., 2], vb[..., 2]
        speed = (vb[..., 0] - va[..., 0]) + 1j * (vb[..., 1] - va[..., 1]) + 1j * (wb * rb - wa * ra)
        return speed, wa * wa * ra - wb * wb * rb, wa

    def along(self, q: Array, rates: Array) -> Array:
        """(S, M·width) the Jacobian times rates (S, P, 3) of the bodies."""
        _, jac = self.linear(q)
        both = np.concatenate((rates[:, self.a], rates[:, self.b]), axis=-1)
        if self.width > 1:
            both = np.repeat(both, self.width, axis=1)
        found: Array = np.einsum("smk,smk->sm", jac, both)
        return found


class Coincident(Rows):
    """e = d: two equations, x then y, for each row."""

    width = 2

    def value(self, q: Array) -> Array:
        return self._pairs(self.arms(q)[2])

    def _pairs(self, z: Plane) -> Array:
        return np.ascontiguousarray(z).view(np.float64)

    @cached_property
    def _pattern(self) -> Array:
        """(M, 2, 6) the constant derivatives."""
        pattern = np.zeros((self.count, 2, 6))
        pattern[:, 0, 0] = pattern[:, 1, 1] = -1.0
        pattern[:, 0, 3] = pattern[:, 1, 4] = 1.0
        return pattern

    def linear(self, q: Array) -> tuple[Array, Array]:
        ra, rb, d, _ = self.arms(q)
        jac = np.empty((len(q), self.count, 2, 6))
        jac[:] = self._pattern
        jac[:, :, 0, 2], jac[:, :, 1, 2] = ra.imag, -ra.real
        jac[:, :, 0, 5], jac[:, :, 1, 5] = -rb.imag, rb.real
        return self._pairs(d), jac.reshape(len(q), 2 * self.count, 6)

    def quadratic(self, q: Array, v: Array) -> Array:
        ra, rb, _, _ = self.arms(q)
        wa, wb = v[:, self.a, 2], v[:, self.b, 2]
        return self._pairs(wa * wa * ra - wb * wb * rb)


class Angle(Rows):
    """e = θ_b − θ_a − constant."""

    def value(self, q: Array) -> Array:
        turn: Array = q[:, self.b, 2] - q[:, self.a, 2] - self.constant
        return turn

    def linear(self, q: Array) -> tuple[Array, Array]:
        jac = np.zeros((len(q), self.count, 6))
        jac[..., 2], jac[..., 5] = -1.0, 1.0
        return self.value(q), jac

    def quadratic(self, q: Array, v: Array) -> Array:
        return np.zeros((len(q), self.count))


class Projection(Rows):
    """e = u · d with u the unit vector at the angle θ_a + constant."""

    @cached_property
    def _direction(self) -> Plane:
        direction: Plane = np.exp(1j * self.constant)
        return direction

    def value(self, q: Array) -> Array:
        _, _, d, turn = self.arms(q)
        seen: Array = ((turn * self._direction).conj() * d).real
        return seen

    def linear(self, q: Array) -> tuple[Array, Array]:
        ra, rb, d, turn = self.arms(q)
        u = turn * self._direction
        back = u.conj()
        jac = np.empty((len(q), self.count, 6))
        jac[..., 0], jac[..., 1], jac[..., 2] = -u.real, -u.imag, (back * (d + ra)).imag
        jac[..., 3], jac[..., 4], jac[..., 5] = u.real, u.imag, -(back * rb).imag
        return (back * d).real, jac

    def quadratic(self, q: Array, v: Array) -> Array:
        ra, rb, d, turn = self.arms(q)
        speed, bend, wa = self.motion(v, ra, rb)
        back = (turn * self._direction).conj()
        turned: Array = 2 * wa * (back * speed).imag + (back * (bend - wa * wa * d)).real
        return turned


class Distance(Rows):
    """e = (d·d − constant²) / (2 constant): to first order the excess of |d| over the length."""

    def value(self, q: Array) -> Array:
        d = self.arms(q)[2]
        excess: Array = ((d.conj() * d).real - self.constant**2) / (2 * self.constant)
        return excess

    def linear(self, q: Array) -> tuple[Array, Array]:
        ra, rb, d, _ = self.arms(q)
        n = d / self.constant
        back = n.conj()
        jac = np.empty((len(q), self.count, 6))
        jac[..., 0], jac[..., 1], jac[..., 2] = -n.real, -n.imag, (back * ra).imag
        jac[..., 3], jac[..., 4], jac[..., 5] = n.real, n.imag, -(back * rb).imag
        return ((back * d).real - self.constant) / 2, jac

    def quadratic(self, q: Array, v: Array) -> Array:
        ra, rb, d, _ = self.arms(q)
        speed, bend, _ = self.motion(v, ra, rb)
        bent: Array = ((speed.conj() * speed).real + (d.conj() * bend).real) / self.constant
        return bent


class Polar(Rows):
    """e = angle of d − θ_a, in (−π − θ_a, π − θ_a]; the caller unwraps."""

    def value(self, q: Array) -> Array:
        seen: Array = np.angle(self.arms(q)[2]) - q[:, self.a, 2]
        return seen

    def linear(self, q: Array) -> tuple[Array, Array]:
        ra, rb, d, _ = self.arms(q)
        t = 1j * d / (d.conj() * d).real
        back = t.conj()
        jac = np.empty((len(q), self.count, 6))
        jac[..., 0], jac[..., 1], jac[..., 2] = -t.real, -t.imag, (back * ra).imag - 1.0
        jac[..., 3], jac[..., 4], jac[..., 5] = t.real, t.imag, -(back * rb).imag
        return np.angle(d) - q[:, self.a, 2], jac

    def quadratic(self, q: Array, v: Array) -> Array:
        ra, rb, d, _ = self.arms(q)
        speed, bend, _ = self.motion(v, ra, rb)
        square = (d.conj() * d).real
        across = d.conj() * speed
        curved: Array = (d.conj() * bend).imag / square - 2 * across.real * across.imag / square**2
        return curved


KINDS: dict[str, type[Rows]] = {
    "coincident": Coincident,
    "angle": Angle,
    "projection": Projection,
    "distance": Distance,
    "polar": Polar,
}
