"""What is asked of a stretch of motion: where and how fast things are in it, at which times to look at it, and the same
up to a time."""

from dataclasses import replace
from functools import partial

import numpy as np

from ..arrays import Array
from .equations import Equations
from .kernels.tables import DOUBTFUL
from .path import ended, fill, filled
from .refining import by_a_dead_point
from .stretches import Law, Nodes, Stretch

CLOSE = 0.06
"""How far anything may move between two looks at what it may touch (rad, typical lengths)."""


def positions(stretch: Stretch, t: Array) -> Array:
    """(S, P, 3) at times t (S,) of a stretch."""
    q, none = np.empty((t.size, *stretch.nodes.q.shape[1:])), np.zeros((t.size, 0, 0))
    fill(stretch)(t, q, none, none, False)
    return q


def rates(stretch: Stretch, t: float) -> tuple[Array, Array, Array]:
    """Positions, velocities and accelerations (P, 3) at a time of a stretch."""
    q, v, a = (np.zeros((1, *stretch.nodes.q.shape[1:])) for _ in range(3))
    fill(stretch)(np.array([t]), q, v, a, True)
    return q[0], v[0], a[0]


def resting(law: Law, q: Array, t: Array, equations: Equations) -> Stretch:
    """A stretch in which nothing moves."""
    nodes = Nodes(t, q, np.zeros_like(q), np.zeros_like(q))
    return Stretch(law.part(float(t[0])), nodes, equations, still=True, among_contacts=True)


def looked_at(stretch: Stretch) -> Array:
    """The times of a stretch between which nothing moves far."""
    nodes = stretch.nodes
    moved = np.abs(np.diff(nodes.q, axis=0)).max(axis=(1, 2), initial=0.0)
    pieces = np.clip(np.ceil(moved / CLOSE), 2, 200).astype(int)
    times = [np.linspace(a, b, n, endpoint=False) for a, b, n in
             zip(nodes.t[:-1].tolist(), nodes.t[1:].tolist(), pieces.tolist(), strict=True)]  # fmt: skip
    return np.unique(np.append(np.concatenate(times), nodes.t[-1])) if times else nodes.t


def cut(stretch: Stretch, t: float) -> Stretch:
    """A stretch up to a time, with a node at it."""
    nodes = stretch.nodes
    if t >= nodes.t[-1]:
        return stretch
    kept = max(int(np.searchsorted(nodes.t, t, side="left")), 1)
    there = zip((nodes.q, nodes.v, nodes.a), rates(stretch, t), strict=True)
    found = Nodes(np.append(nodes.t[:kept], t), *(np.concatenate((old[:kept], new[None])) for old, new in there))
    law = replace(stretch.law, t1=max(t, stretch.law.t0))
    if stretch.solver is None and law.moves and not stretch.still:
        targets, paces, seconds = (each[0] for each in law.sampled(np.array([t])))
        regular = stretch.equations.settle(found.q[-1].copy(), targets, paces, seconds)[0]
        if regular < DOUBTFUL and not by_a_dead_point(stretch.equations, law, t, found.q[-1]):
            found = ended(law, found, lambda some: partial(filled, stretch.equations, law, some))
    return replace(stretch, law=law, nodes=found)
