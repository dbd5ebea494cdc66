"""Closest approaches through a motion: closed forms, brute force, depths that only touch, penetration."""

import math

import numpy as np
import pytest
import shapely

from anakinema.clearance.approach import closest_approaches, pairs_to_watch
from anakinema.clearance.overlap import outline_polygon
from anakinema.document import read_document
from anakinema.kinematics.simulation import simulate
from mechanisms import document, four_bar, turn


def arm_and_post(post: dict, arm: dict, start=0.0, stop=170.0, steps=17, **post_part):
    """An arm that turns about the origin past a post on the frame's side."""
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "post": {"fixed": True, "shapes": [post], **post_part},
        "arm": {"points": {"O": [0, 0]}, "shapes": [arm]},
    }
    joints = {"main": {"type": "revolute", "a": "frame.O", "b": "arm.O"}}
    return document(parts, joints, drivers=turn(start, stop, steps))


def approach_of(tree, *pair):
    motion = simulate(read_document(tree))
    return motion, closest_approaches(motion, [pair])[0]


BAR = {"kind": "bar", "through": [[0, 0], [50, 0]], "width": 10}


def test_an_arm_passes_a_post_between_the_steps():
    """Arm's tip circle reaches 55; a post of radius 4 at 60.3 and an odd angle: the gap is 60.3 − 55 − 4."""
    at = math.radians(77.7)
    post = {"kind": "disc", "center": [60.3 * math.cos(at), 60.3 * math.sin(at)], "diameter": 8}
    _, found = approach_of(arm_and_post(post, BAR), "arm", "post")
    assert found.distance == pytest.approx(1.3, abs=1e-7)
    assert math.degrees(found.driver) == pytest.approx(77.7, abs=0.02)
    assert abs(found.points[0] - found.points[1]) == pytest.approx(found.distance)
    assert not found.proven
    assert abs(found.points[1] - complex(*post["center"])) == pytest.approx(4, abs=1e-6)


def test_penetration_is_the_shortest_move_that_parts_them():
    """Two discs overlap by radii less centre distance; a bar over a disc parts sideways."""
    at = math.radians(77.7)
    near = {"kind": "disc", "center": [57 * math.cos(at), 57 * math.sin(at)], "diameter": 8}
    _, found = approach_of(arm_and_post(near, BAR), "arm", "post")
    assert found.distance == pytest.approx(-2.0, abs=1e-4)  # 55 + 4 − 57
    inside = {"kind": "disc", "center": [20 * math.cos(at), 20 * math.sin(at)], "diameter": 8}
    _, found = approach_of(arm_and_post(inside, BAR), "arm", "post")
    assert found.distance == pytest.approx(-9.0, abs=1e-4)  # sideways: 5 + 4


def test_depths_that_only_touch_do_not_meet():
    post = {"kind": "disc", "center": [20, 20], "diameter": 8}
    tree = arm_and_post(post, BAR, depth=[1, 2])  # the arm's depth is 0 to 1
    assert pairs_to_watch(read_document(tree)) == []
    tree["parts"]["post"]["depth"] = [0.999, 2]
    assert pairs_to_watch(read_document(tree)) == [("post", "arm")]


def test_parts_joined_directly_are_left_out_unless_a_check_names_them():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36))
    for name in ("crank", "coupler", "rocker"):
        points = list(tree["parts"][name]["points"])
        tree["parts"][name]["shapes"] = [{"kind": "bar", "through": points, "width": 6}]
    assert pairs_to_watch(read_document(tree)) == [("crank", "rocker")]
    tree["checks"] = {"gap": {"measure": "clearance", "parts": ["crank", "coupler"], "at_least": 0}}
    assert pairs_to_watch(read_document(tree)) == [("crank", "coupler"), ("crank", "rocker")]


def test_agrees_with_brute_force():
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36))
    tree["parts"]["crank"]["shapes"] = [{"kind": "bar", "through": ["O", "A"], "width": 16}]
    tree["parts"]["rocker"]["shapes"] = [
        {"kind": "bar", "through": ["D", "B"], "width": 14},
        {"kind": "rectangle", "center": [30, 12], "size": [30, 10]},
    ]
    motion, found = approach_of(tree, "crank", "rocker")
    q = motion.positions(np.linspace(0, motion.path.t1, 4001))
    moved = []
    for name in ("crank", "rocker"):
        outline = outline_polygon(motion.document.parts[name].slabs[0].region, 1e-4)
        xy = shapely.get_coordinates(outline)
        z, at = xy[:, 0] + 1j * xy[:, 1], q[:, motion.system.body(name)]
        placed = np.exp(1j * at[:, 2:]) * z + at[:, :1] + 1j * at[:, 1:2]
        moved.append(shapely.polygons(np.stack((placed.real, placed.imag), axis=2)))
    assert found.distance == pytest.approx(float(shapely.distance(*moved).min()), abs=2e-4)
