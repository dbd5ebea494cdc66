"""What the loops of clearance read and where they compute.

A **form** is a part's outline over all its slabs of depth. Its *features* are where contact can take place: lines, and
*rounds*, the points center + ρ n over a range of outward normals n. An arc of material has ρ = radius, the wall of a
hole ρ = −radius, a sharp corner ρ = 0 and the normals between those of its two edges. Two features touch where
their outward normals are opposite; the gap between them is measured along the normal and is negative where one has
passed through the other.
"""

from typing import NamedTuple

import numpy as np

from ...arrays import Array, Index

LINE, ROUND = 0.0, 1.0
ORDER = 6
"""Degree up to which the motion of a pair is expanded within an interval; what lies beyond is bounded."""
DEGREE = 5
"""Degree of the polynomials by which a motion is given."""
ANGLE_SLACK = 2e-10
"""By how much (rad) two normals may miss each other and still be opposite."""
FOOT_SLACK = 1e-11
"""By how much (relative to its length) a foot may lie beyond a line's end."""

KIND, CX, CY, SIZE, ONE, TWO, LOW, HIGH, BX, BY, BR, EDGE = range(12)
"""Columns of a feature. A line: start (CX, CY), length SIZE, direction (ONE, TWO). A round: center (CX, CY), ρ SIZE,
the middle of its normals' angles ONE and half their range TWO. Then the depth from LOW to HIGH, the circle about it
(BX, BY, BR), and the number of its edge (−1 for a corner)."""

START_X, START_Y, END_X, END_Y, CENTER_X, CENTER_Y, RADIUS, ANGLE, SWEEP = range(9)
"""Columns of an edge: ends, then (for arcs: RADIUS > 0) center, radius, start angle and signed sweep."""


class OutlineTable(NamedTuple):
    """A part's outline. `features` and `slim` (F, 12): as they are, and drawn in by a hair, so that what only touches
    does not overlap; in the order of the tree. `edges` and `slim_edges` (E, 9), slab by slab. `nodes` (N, 5): center,
    radius and depth of what lies under each node of the tree; `links` (N, 2): its two branches, or (−1 − first, count)
    of its features. `slabs` (S, 4): depth, first edge and the one behind the last. `spots` (L, 4): a point of every
    loop and its depth, and `slim_spots`."""

    features: Array
    slim: Array
    edges: Array
    slim_edges: Array
    nodes: Array
    links: Index
    slabs: Array
    spots: Array
    slim_spots: Array


class MotionTrack(NamedTuple):
    """The motion of all bodies in stretches of time. `times` (S, 3): start, length of the unit in which the
    polynomials count, and how far in that unit the stretch goes. `terms` (S, P, 18): coefficients of x, y and θ from
    the constant on. `error` (S,): how far, by the polynomials, a point of one part may be off as seen from another."""

    times: Array
    terms: Array
    error: Array


class Room(NamedTuple):
    """Room to compute in. `moving` (4, 7) complex: place and turn of the first part as seen from the second, then the
    other way round. `series` (8, 7) and `spare` (4, 7): expansions. `stack` (K, 2) of intervals with `marks`
    (K, 3): stretch, first and last of the pairs to look at; `visits` (V, 2) of nodes of two trees; `pairs` (L, 2) of
    features; `curves` (M, 8), `escapes` (E, 8)."""

    moving: np.ndarray
    series: Array
    spare: np.ndarray
    stack: Array
    marks: Index
    visits: Index
    pairs: Index
    curves: Array
    escapes: Array
