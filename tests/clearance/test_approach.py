"""Closest approaches through a motion: closed forms, pairs that are watched, and what makes no difference."""

import json
import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.clearance import approach
from anakinema.clearance.approach import closest_approaches
from anakinema.clearance.pairs import pairs_to_watch
from anakinema.document import read_document
from anakinema.formats import project
from anakinema.kinematics.simulation import simulate
from mechanisms import document, four_bar, slider_crank, turn

FINE = 1e-6
"""The accuracy that is promised (length units)."""
BAR = {"kind": "bar", "through": [[0, 0], [50, 0]], "width": 10}


def arm_and_post(post: dict, arm: dict, start=0.0, stop=170.0, steps=17, **post_part):
    """An arm that turns about the origin past a post on the frame's side."""
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "post": {"fixed": True, "shapes": [post], **post_part},
        "arm": {"points": {"O": [0, 0]}, "shapes": [arm]},
    }
    joints = {"main": {"type": "revolute", "a": "frame.O", "b": "arm.O"}}
    return document(parts, joints, drivers=turn(start, stop, steps))


def on_a_slide(moving: list[dict], still: list[dict], start: float, stop: float, steps=7, direction=0.0):
    """A part that slides from one place to another beside a fixed one."""
    parts = {
        "frame": {"points": {"O": [0, 0]}},
        "still": {"fixed": True, "shapes": still},
        "moving": {"points": {"P": [0, 0]}, "shapes": moving},
    }
    joints = {"way": {"type": "prismatic", "a": "frame.O", "b": "moving.P", "direction": direction}}
    return document(parts, joints, drivers={"push": {"joint": "way", "from": start, "to": stop, "steps": steps}})


def approach_of(tree, *pair):
    """The closest approach of a pair; that it is proven, and that its points are so far apart, holds always."""
    motion = simulate(read_document(tree))
    found = closest_approaches(motion, [pair])[0]
    assert found.proven, found.reason
    assert abs(found.points[0] - found.points[1]) == pytest.approx(abs(found.distance), abs=FINE)
    assert found.distance - FINE <= found.low <= found.distance
    return found


def disc(x, y, diameter, **more):
    return {"kind": "disc", "center": [x, y], "diameter": diameter, **more}


def block(x, y, along, across, **more):
    return {"kind": "rectangle", "center": [x, y], "size": [along, across], **more}


@pytest.mark.parametrize("steps", [1, 17, 360])
def test_an_arm_passes_a_post_between_the_steps(steps):
    """Arm's tip circle reaches 55; a post of radius 4 at 60.3 and an odd angle: the gap is 60.3 − 55 − 4."""
    at = math.radians(77.7)
    post = disc(60.3 * math.cos(at), 60.3 * math.sin(at), 8)
    found = approach_of(arm_and_post(post, BAR, steps=steps), "arm", "post")
    assert found.distance == pytest.approx(1.3, abs=FINE)
    assert math.degrees(found.driver) == pytest.approx(77.7, abs=0.1)


def test_a_square_bar_turns_between_a_wall_and_inside_a_ring():
    """A bar of half length 30 and half width 5 has its corners at √925: against a wall at 40 and in a ring of 35."""
    arm, far = block(0, 0, 60, 10), math.hypot(30, 5)
    found = approach_of(arm_and_post(block(45, 0, 10, 200), arm, 20, 200), "arm", "post")
    assert found.distance == pytest.approx(40 - far, abs=FINE)
    tree = arm_and_post(disc(0, 0, 100), arm, 20, 200)
    tree["parts"]["post"]["shapes"].append(disc(0, 0, 70, cut=True))
    found = approach_of(tree, "arm", "post")
    assert found.distance == pytest.approx(35 - far, abs=FINE) and found.t == 0  # the same all along: told at the start


@pytest.mark.parametrize("reach", [20, 60, 430, 1000])
@pytest.mark.parametrize("play", [1e-3, 0.1, 0.2, 1.0])
def test_a_pin_in_its_hole_has_half_its_play(reach, play):
    """However long the bar; joined directly, so only a check asks for it."""
    parts = {
        "frame": {"points": {"O": [0, 0]}, "shapes": [disc(0, 0, 40 - play)]},
        "arm": {"points": {"O": [0, 0]}, "shapes": [block(reach / 2, 0, reach + 60, 60), disc(0, 0, 40, cut=True)]},
    }
    tree = document(parts, {"main": {"type": "revolute", "a": "frame.O", "b": "arm.O"}}, drivers=turn(0, 360, 36))
    assert approach_of(tree, "frame", "arm").distance == pytest.approx(play / 2, abs=FINE)


def test_a_fit_without_play_touches_and_one_too_tight_must_be_pulled_out():
    parts = {
        "frame": {"points": {"O": [0, 0]}, "shapes": [disc(0, 0, 40)]},
        "arm": {"points": {"O": [0, 0]}, "shapes": [disc(0, 0, 100), disc(0, 0, 40, cut=True)]},
    }
    tree = document(parts, {"main": {"type": "revolute", "a": "frame.O", "b": "arm.O"}}, drivers=turn(0, 360, 36))
    assert approach_of(tree, "frame", "arm").distance == pytest.approx(0, abs=1e-9)
    tree["parts"]["frame"]["shapes"] = [disc(0, 0, 40.1)]
    assert approach_of(tree, "frame", "arm").distance == pytest.approx(-70.05, abs=1e-5)


@pytest.mark.parametrize(("width", "wanted"), [(10.5, 0.25), (10.0, 0.0)])
def test_a_pin_in_a_straight_slot(width, wanted):
    """It slides from end to end, with play or without."""
    plate = [block(20, 0, 90, 40), {"kind": "slot", "through": [[0, 0], [40, 0]], "width": width, "cut": True}]
    found = approach_of(on_a_slide([disc(0, 0, 10)], plate, 0, 40), "moving", "still")
    assert found.distance == pytest.approx(wanted, abs=FINE)


def arm_in_arc(stop: float, pin: float = 8.0):
    """A pin at radius 30 on an arm, in an arc slot of 10 to 100 degrees and width 9."""
    slot = {"kind": "slot", "center": [0, 0], "radius": 30, "from": 10, "to": 100, "width": 9}
    tree = arm_and_post(disc(0, 0, 100), disc(30, 0, pin), 20, stop)
    tree["parts"]["post"]["shapes"].append({**slot, "cut": True})
    return tree


def test_a_pin_in_an_arc_slot_and_past_its_end():
    """Half the play along it; past the end by an angle, the way out is the chord back less the play's share: the pin's
    center must lie within 0.5 of the end's center, at radius 30."""
    assert approach_of(arm_in_arc(95), "arm", "post").distance == pytest.approx(0.5, abs=FINE)
    past = approach_of(arm_in_arc(102.5), "arm", "post").distance
    assert past == pytest.approx(-(2 * 30 * math.sin(math.radians(1.25)) - 0.5), abs=FINE)
    # a pin as wide as the slot leaves only its middle line: the nearest point of it is the end's center
    tight = approach_of(arm_in_arc(102.5, pin=9.0), "arm", "post").distance
    assert tight == pytest.approx(-2 * 30 * math.sin(math.radians(1.25)), abs=FINE)


def test_penetration_is_the_shortest_move_that_parts_them():
    """Discs overlap by radii less centre distance; a bar over a disc parts sideways; a block in a notch goes out
    the way it came, though its walls are nearer."""
    at = math.radians(77.7)
    found = approach_of(arm_and_post(disc(57 * math.cos(at), 57 * math.sin(at), 8), BAR), "arm", "post")
    assert found.distance == pytest.approx(-2.0, abs=FINE)  # 55 + 4 − 57
    found = approach_of(arm_and_post(disc(20 * math.cos(at), 20 * math.sin(at), 8), BAR), "arm", "post")
    assert found.distance == pytest.approx(-9.0, abs=FINE)  # sideways: 5 + 4
    notch = [block(0, 0, 100, 60), block(0, 20, 20, 40, cut=True)]  # 20 wide, its bottom at 0
    found = approach_of(on_a_slide([block(0, 40, 20, 60)], notch, 0, -12, direction=90), "moving", "still")
    assert found.distance == pytest.approx(-2, abs=FINE)  # its lower edge goes from 10 to −2


def test_a_corner_between_two_walls_leaves_by_both():
    """A disc of radius 5 stands in the right angle of an L; pushed 1 into both walls it leaves along the diagonal."""
    walls = [block(50, -5, 120, 10), block(-5, 50, 10, 120)]
    found = approach_of(on_a_slide([disc(0, 4, 10)], walls, 30, 4), "moving", "still")
    assert found.distance == pytest.approx(-math.sqrt(2), abs=FINE)


def test_a_wall_thinner_than_a_step_is_not_passed_unseen():
    wall = block(33.3, 0, 0.05, 40)
    found = approach_of(on_a_slide([disc(0, 0, 6)], [wall], 0, 100, steps=2), "moving", "still")
    assert found.distance == pytest.approx(-3.025, abs=FINE)


@pytest.mark.parametrize(("far", "wanted"), [(59.0, 0.0), (58.9, -0.1), (59.1, 0.1)])
def test_grazing_and_a_contact_that_begins_and_ends_within_one_step(far, wanted):
    found = approach_of(arm_and_post(disc(0, far, 8), BAR, 0, 180, steps=1), "arm", "post")
    assert found.distance == pytest.approx(wanted, abs=FINE)


def test_a_least_distance_at_the_end_and_at_a_kink():
    """A slider stops 3.5 before a wall. Two drivers, one of which stops earlier: the way has a kink, and the nearest
    place is there: the arm stands still at 90 degrees while the slide comes, then leaves."""
    found = approach_of(on_a_slide([block(0, 0, 20, 10)], [block(100, 0, 10, 50)], 0, 81.5), "moving", "still")
    assert found.distance == pytest.approx(3.5, abs=FINE) and found.driver == pytest.approx(81.5)
    tree = on_a_slide([disc(0, 0, 10)], [], 0, 60)
    tree["parts"]["frame"]["points"]["S"] = [40, -40]
    arm = [block(0, 0, 4, 4), block(15, 0, 34, 4)]
    tree["parts"]["still"] = {"points": {"S": [0, 0]}, "shapes": arm, "pose": [40, -40, 0]}
    tree["joints"]["arm"] = {"type": "revolute", "a": "frame.S", "b": "still.S"}
    tree["drivers"]["push"]["duration"] = 1
    tree["drivers"]["lift"] = {"joint": "arm", "from": 0, "to": 90, "steps": 7, "duration": 0.5}
    found = approach_of(tree, "moving", "still")
    assert found.distance == pytest.approx(3.0, abs=FINE)  # the arm's end at −8, the disc's underside at −5
    assert found.t > 0.5


def test_a_crank_pin_beside_a_ram():
    """A disc on the crank comes nearest to the slider's face at 0°, in the middle of the turn, where a sample hides it:
    rod and crank in line, the face at a + b − 8, the pin's disc at a + 6."""
    tree = slider_crank(30, 90, 0, start=60, drivers=turn(-90, 90, 5))
    tree["parts"]["crank"]["shapes"] = [disc(30, 0, 12)]
    tree["parts"]["slider"]["shapes"] = [block(0, 0, 16, 20)]
    found = approach_of(tree, "crank", "slider")
    least = min(
        30 * math.cos(w) + math.sqrt(90**2 - (30 * math.sin(w)) ** 2) - 8
        - 30 * math.cos(w) - 6 if abs(30 * math.sin(w)) <= 10 else
        math.hypot(math.sqrt(90**2 - (30 * math.sin(w)) ** 2) - 8, 30 * abs(math.sin(w)) - 10) - 6
        for w in np.linspace(-math.pi / 2, math.pi / 2, 200_001)
    )
    assert found.distance == pytest.approx(least, abs=FINE)


def test_pairs_that_are_watched():
    """Depths that only touch don't meet; parts joined directly, or of one rigid body, are left out unless a check names
    them."""
    tree = arm_and_post(disc(20, 20, 8), BAR, depth=[1, 2])  # the arm's depth is 0 to 1
    assert pairs_to_watch(read_document(tree)) == []
    tree["parts"]["post"]["depth"] = [0.999, 2]
    assert pairs_to_watch(read_document(tree)) == [("post", "arm")]
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36))
    for name in ("crank", "coupler", "rocker"):
        tree["parts"][name]["shapes"] = [{"kind": "bar", "through": list(tree["parts"][name]["points"]), "width": 6}]
    assert pairs_to_watch(read_document(tree)) == [("crank", "rocker")]
    for name, to in (("plate", "crank"), ("lug", "plate")):
        tree["parts"][name] = {"points": {"O": [0, 0]}, "shapes": [disc(0, 0, 5)]}
        tree["joints"][name] = {"type": "fixed", "a": f"{to}.O", "b": f"{name}.O"}
    watched = pairs_to_watch(read_document(tree))
    assert ("crank", "lug") not in watched and ("rocker", "lug") in watched
    tree["checks"] = {"gap": {"measure": "clearance", "parts": ["crank", "coupler"], "at_least": 0}}
    assert pairs_to_watch(read_document(tree))[0] == ("crank", "coupler")


def crank_rocker(**sections):
    tree = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36), **sections)
    tree["parts"]["crank"]["shapes"] = [{"kind": "bar", "through": ["O", "A"], "width": 16}]
    tree["parts"]["rocker"]["shapes"] = [{"kind": "bar", "through": ["D", "B"], "width": 14}, block(30, 12, 30, 10)]
    return tree


@settings(max_examples=12, deadline=None)
@given(st.floats(-200, 200), st.floats(-200, 200), st.floats(-180, 180), st.sampled_from([0.04, 1.0, 25.0]),
       st.integers(1, 500), st.booleans())
def test_place_scale_order_and_steps_make_no_difference(x, y, angle, scale, steps, swapped):
    wanted = approach_of(crank_rocker(), "crank", "rocker").distance
    tree = crank_rocker()
    spin = complex(math.cos(math.radians(angle)), math.sin(math.radians(angle)))
    for part in tree["parts"].values():
        px, py, turned = part.get("pose", [0, 0, 0])
        z = (complex(px, py) * spin + complex(x, y)) * scale
        part["pose"] = [z.real, z.imag, turned + angle]
        part["points"] = {name: [scale * u for u in point] for name, point in part["points"].items()}
        for shape in part.get("shapes", []):
            for key in ("width", "center", "size"):
                if key in shape:
                    value = shape[key]
                    shape[key] = scale * value if isinstance(value, (int, float)) else [scale * u for u in value]
    tree["drivers"]["turn"]["steps"] = steps
    if swapped:
        tree["parts"] = dict(reversed(tree["parts"].items()))
    found = approach_of(tree, *(("rocker", "crank") if swapped else ("crank", "rocker")))
    assert found.distance == pytest.approx(scale * wanted, abs=FINE * max(scale, 1))


def test_a_track_never_contradicts_its_extremes():
    motion = simulate(read_document(crank_rocker()))
    found = closest_approaches(motion)[0]
    t, values = found.samples
    assert values.min() == found.distance and t[np.argmin(values)] == found.t
    assert np.all(np.diff(t) >= 0)


def test_pairs_that_can_not_be_settled_take_few_looks_together(monkeypatch):
    """The folder drive with a pinion of 1.8 m: its roller turns a thousand times, and every pair is hopeless. All of
    them together take little more than one may."""
    tree = json.loads(project.dumps(project.example("folder-drive")[0]))
    tree["parameters"]["pinion"]["value"] = 1818
    monkeypatch.setattr(approach, "VAIN", 60_000)
    monkeypatch.setattr(approach, "COMMON", math.inf)  # nothing is taken less closely for its size
    watched = []
    settled = approach.Watch.judged
    monkeypatch.setattr(approach.Watch, "judged", lambda watch, k: watched.append(watch) or settled(watch, k))
    found = closest_approaches(simulate(read_document(tree)))
    assert len(found) == 7 and not any(each.proven for each in found)
    assert watched[0].vain < 60_000 + 7 * (approach.LEAST + approach.AT_ONCE)
    assert all("looks allowed" in each.reason or "not looked at closely" in each.reason for each in found)
    assert all(each.distance is None or each.low < each.distance for each in found)


@pytest.mark.parametrize(("size", "turns"), [(1e-3, 1), (100, 1), (1000, 1), (1e4, 1), (1, 50), (100, 50), (30, 200)])
def test_proof_knows_no_scale(size, turns):
    """Links of ten metres and fifty turns are proven as a crank of millimetres is."""
    wanted = approach_of(crank_rocker(), "crank", "rocker").distance
    tree = crank_rocker()
    for part in tree["parts"].values():
        x, y, angle = part.get("pose", [0, 0, 0])
        part["pose"] = [size * x, size * y, angle]
        part["points"] = {name: [size * u for u in point] for name, point in part["points"].items()}
        for shape in part.get("shapes", []):
            for key in {"width", "center", "size"} & shape.keys():
                value = shape[key]
                shape[key] = size * value if isinstance(value, (int, float)) else [size * u for u in value]
    tree["drivers"]["turn"] = turn(tree["drivers"]["turn"]["from"], 360 * turns, 36)["turn"]
    found = next(each for each in closest_approaches(simulate(read_document(tree))) if "rocker" in each.parts)
    assert found.proven and found.distance == pytest.approx(size * wanted, rel=1e-8, abs=1e-8)


def test_rounding_is_not_halved_away():
    """A part turned by 3e9 turns is known to a millionth of a rad: no polynomial can meet that, however short."""
    from anakinema.clearance.track import track

    tree = {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0]}},
            "arm": {"points": {"O": [0, 0]}, "pose": [0, 0, 1e12], "shapes": [{"kind": "disc", "center": [90, 0],
            "diameter": 9}]},
        },
        "joints": {"hinge": {"type": "revolute", "a": "frame.O", "b": "arm.O"}},
        "drivers": {"turn": {"joint": "hinge", "from": 0, "to": 90}},
    }  # fmt: skip
    found = track(simulate(read_document(tree)), 100.0, 1e-9)
    assert len(found.times) < 3000
    assert found.error.max() > 1e-7  # and says how much it may be off


def test_of_too_many_pairs_the_nearest_are_watched_and_the_rest_is_counted(monkeypatch):
    """Twenty discs in a row, of which a check names the two at the ends: with room for thirty pairs each is watched
    against the one beside it, the ends too, and how many more there are is told."""
    from anakinema.clearance import pairs as watching
    from anakinema.findings import analyse
    from anakinema.findings.advice import unwatched

    parts = {f"p{k}": {"shapes": [disc(0, 0, 8)], "pose": [10 * k, 0, 0]} for k in range(20)}
    checks = {"ends": {"measure": "clearance", "parts": ["p0", "p19"], "at_least": 1}}
    tree = {"anakinema": 1, "parts": {"frame": {"fixed": True}, **parts}, "checks": checks}
    every = read_document(tree)
    assert len(pairs_to_watch(every)) == 190 and analyse(every).unwatched == 0 and unwatched(0) == ""
    monkeypatch.setattr(watching, "MOST_PAIRS", 30)
    document = read_document(tree)
    pairs = pairs_to_watch(document)
    assert pairs[0] == ("p0", "p19") and len(pairs) == 20
    assert {(f"p{k}", f"p{k + 1}") for k in range(19)} == set(pairs[1:])
    findings = analyse(document)
    assert unwatched(findings.unwatched).startswith("170 pairs of parts are not watched")
    assert unwatched(findings.unwatched) in [one.text for one in findings.advice]
    assert [each.distance for each in findings.approaches] == pytest.approx([182.0] + [2.0] * 19)


def test_a_motion_that_is_followed_coarsely_says_what_it_does_not_know(monkeypatch):
    """With few looks at the motion its polynomials miss by more: what is certain keeps away from what is found."""
    from anakinema.clearance import track as tracking

    exact = closest_approaches(simulate(read_document(crank_rocker())))
    monkeypatch.setattr(tracking, "MOST_PLACES", 0)
    monkeypatch.setattr(tracking, "PIECES", 1)
    coarse = closest_approaches(simulate(read_document(crank_rocker())))
    for one, other in zip(exact, coarse, strict=True):
        assert one.proven and other.low <= one.distance + 1e-9
        assert other.proven or "certainly not below" in other.reason
