"""Least movement of what no driver moves: defined by the mechanism, not by how its parts are written down."""

import cmath
import copy
import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.kinematics.reaches import least_circle

LINK = 30.0


def trailing(links: int = 3) -> dict[str, Any]:
    """A slide that pulls a strand of links; a disc turns idly beside it."""
    parts: dict[str, Any] = {
        "frame": {"fixed": True, "points": {"O": [0, 0]}},
        "ram": {"points": {"A": [0, 0]}},
    }
    joints: dict[str, Any] = {"slide": {"type": "prismatic", "a": "frame.O", "b": "ram.A", "direction": 20}}
    at, before = 0j, "ram.A"
    for k in range(links):
        angle = 200 + 25 * k
        parts[f"link{k}"] = {"points": {"A": [0, 0], "B": [LINK, 0]}, "pose": [at.real, at.imag, angle]}
        joints[f"pin{k}"] = {"type": "revolute", "a": before, "b": f"link{k}.A"}
        at, before = at + LINK * cmath.exp(1j * math.radians(angle)), f"link{k}.B"
    drivers = {"pull": {"joint": "slide", "from": 0, "to": 70, "steps": 10}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers,
            "traces": {"end": {"point": before}}}  # fmt: skip


def ends(tree: dict[str, Any]) -> np.ndarray:
    return analyse(read_document(tree)).motion.traced["end"]


def with_own_axes(tree: dict[str, Any], part: str, shift: complex, turn: float) -> None:
    """The same part, written down in other axes of its own."""
    one, spin = tree["parts"][part], cmath.exp(1j * math.radians(turn))
    x, y, angle = one["pose"]
    at = complex(x, y) + shift * cmath.exp(1j * math.radians(angle))
    moved = {name: (complex(*p) - shift) / spin for name, p in one["points"].items()}
    one["points"] = {name: [z.real, z.imag] for name, z in moved.items()}
    one["pose"] = [at.real, at.imag, angle + turn]


def changed(what: str) -> dict[str, Any]:
    tree = copy.deepcopy(trailing())
    if what == "own axes":
        for k in range(3):
            with_own_axes(tree, f"link{k}", complex(17 * k - 5, 40), 77.0 * k + 10)
    elif what == "an unused point":
        tree["parts"]["link1"]["points"]["far"] = [400, -200]
    elif what == "an outline":
        tree["parts"]["link0"]["shapes"] = [{"kind": "disc", "center": [5, 60], "diameter": 90}]
    elif what == "two grouped parts":
        middle = tree["parts"]["link1"]
        tree["parts"]["half"] = {"points": {"B": middle["points"].pop("B")}, "pose": list(middle["pose"])}
        tree["groups"] = {"both": {"parts": ["link1", "half"]}}
        tree["joints"]["pin2"]["a"] = "half.B"
    elif what == "a weld":
        middle = tree["parts"]["link1"]
        tree["parts"]["half"] = {"points": {"A": [0, 0], "B": middle["points"].pop("B")}, "pose": list(middle["pose"])}
        tree["joints"] = {"weld": {"type": "fixed", "a": "link1.A", "b": "half.A"}, **tree["joints"]}
        tree["joints"]["pin2"]["a"] = "half.B"
    return tree


@pytest.mark.parametrize("what", ["own axes", "an unused point", "an outline", "two grouped parts", "a weld"])
def test_how_a_body_is_written_down_changes_nothing(what: str):
    np.testing.assert_allclose(ends(changed(what)), ends(trailing()), atol=2e-6)


def test_a_body_at_a_single_place_moves_by_its_points_and_outlines():
    """The last link hangs by one pin: what it reaches to counts there."""
    tree = trailing()
    tree["parts"]["link2"]["points"]["far"] = [200, 0]
    assert np.abs(ends(tree) - ends(trailing())).max() > 0.1


def test_one_pinned_link_moves_as_its_equation_says():
    """A link with one pin that is pulled along x: its middle lies at half its length, which is its reach too. Least of
    (ẋ_m)² + (ẏ_m)² + (r θ̇)² gives θ̇ = r sin θ ẋ / (2 r²) for a bar of two points, r half the length."""
    tree = trailing(1)
    tree["joints"]["slide"]["direction"] = 0
    motion = analyse(read_document(tree)).motion
    theta = motion.positions(np.linspace(0.0, motion.path.t1, 2001))[:, motion.system.body("link0"), 2]
    pulled = np.linspace(0.0, 70.0, 2001)
    slope = np.gradient(theta, pulled, edge_order=2)
    np.testing.assert_allclose(slope, np.sin(theta) / LINK, atol=2e-6)


@pytest.mark.parametrize("seed", range(6))
def test_the_least_circle_holds_all_and_touches_two(seed: int):
    chance = np.random.default_rng(seed)
    points = chance.normal(size=2 + 5 * seed) + 1j * chance.normal(size=2 + 5 * seed)
    middle, radius = least_circle(points)
    off = np.abs(points - middle)
    assert off.max() == pytest.approx(radius, rel=1e-9) and (off > radius * (1 - 1e-9)).sum() >= 2
