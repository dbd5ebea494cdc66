"""Contacts: outlines touch, push, stop, carry and drop each other, and never pass."""

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats.project import example
from anakinema.kinematics.dragging import Grip
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from anakinema.kinematics.yielding import least
from anakinema.operations.ready import make_ready
from contacts import (
    ECCENTRIC,
    FLAT,
    KNIFE,
    ROLLER,
    SQUARE,
    Tree,
    blocks,
    box,
    cam_and_follower,
    disc,
    overlap,
    polygon,
)


def moved(tree: dict[str, Any], steps: int | None = None) -> Motion:
    return simulate(read_document(tree), steps)


def of(motion: Motion, joint: str, t: np.ndarray) -> np.ndarray:
    found: np.ndarray = motion.coordinates(t)[:, motion.system.coordinates.index(joint)]
    return found


def events(motion: Motion, contact: str) -> list[tuple[str, float]]:
    """What happens at a contact, and the first driver's coordinate then (degrees, or document lengths)."""
    per = 1.0 if motion.system.coordinates.is_length[0] else 180 / math.pi
    return [(event.kind, (motion.driver_value(event.t) or 0.0) * per)
            for event in motion.path.events if event.owner == contact]  # fmt: skip


# The heights of followers in closed form: on a disc of radius 30 about a center 10 off, by the law of cosines; on a
# square of side 60, by its side or its corner.
def on_eccentric(foot: str, turn: np.ndarray) -> np.ndarray:
    up, aside = 10 * np.sin(turn), 10 * np.cos(turn)
    reach = {"flat": 30.0, "roller": np.sqrt(38**2 - aside**2), "knife": np.sqrt(30**2 - aside**2)}[foot]
    return up + reach


def on_square(foot: str, turn: np.ndarray) -> np.ndarray:
    off = np.abs(np.remainder(turn + math.pi / 4, math.pi / 2) - math.pi / 4)  # from a side that lies level
    corner = 30 * math.sqrt(2) * np.sin(off + math.pi / 4)
    if foot == "flat":
        return corner
    radius = 8.0 if foot == "roller" else 0.0
    side = (30 + radius) / np.cos(off)
    aside = 30 * math.sqrt(2) * np.cos(off + math.pi / 4)
    on_corner = corner + np.sqrt(np.maximum(radius**2 - aside**2, 0.0))
    return np.where(38 * np.tan(off) <= 30 if foot == "roller" else off < 9.0, side, on_corner)


@pytest.mark.parametrize("foot", ["flat", "roller", "knife"])
@pytest.mark.parametrize("cam", ["eccentric", "square"])
def test_a_follower_rides_as_its_geometry_says(cam: str, foot: str):
    shapes = {"flat": FLAT, "roller": ROLLER, "knife": KNIFE}[foot]
    motion = moved(cam_and_follower({"eccentric": ECCENTRIC, "square": SQUARE}[cam], shapes))
    assert motion.stop is None and events(motion, "touch") == [("touch", 0.0)]
    t = np.linspace(0.0, motion.path.t1, 721)
    expected = {"eccentric": on_eccentric, "square": on_square}[cam](foot, of(motion, "turn", t))
    assert np.abs(of(motion, "lift", t) - expected).max() < 1e-8


@pytest.mark.parametrize("steps", [1, 7, 360])
def test_touch_and_part_are_found_within_one_step(steps: int):
    """A roller at the end of an arm lifts a flat foot for a while: closed form, whatever the steps."""
    tree = cam_and_follower(disc(5, x=40), FLAT, to=180)
    tree["joints"]["lift"]["limits"] = {"rest": 42}
    motion = moved(tree, steps)
    lifts = math.degrees(math.asin(37 / 40))
    found = events(motion, "touch")
    assert [kind for kind, _ in found] == ["touch", "part"]
    assert [at for _, at in found] == pytest.approx([lifts, 180 - lifts], abs=1e-6)
    assert of(motion, "lift", np.array([motion.path.t1 / 2]))[0] == pytest.approx(45, abs=1e-9)


def test_grazing_is_a_touch_only_when_it_is_one():
    for beside, touches in ((1e-5, False), (-1e-5, True)):
        tree = cam_and_follower(disc(5, x=40), FLAT, to=180)
        tree["joints"]["lift"]["limits"] = {"rest": 45 + beside}
        assert bool(events(moved(tree, 1), "touch")) is touches


def overhang(width: float = 40.0) -> dict[str, Any]:
    """A plate drawn away under a pin that a rest pulls down past it, to another plate below."""
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "P": [5, 0]}, "shapes": box(200, 4, y=-12)},
                  "plate": {"points": {"A": [0, 0]}, "shapes": box(width, 10)},
                  "pin": {"pose": [5, 30, 0], "points": {"P": [0, 0]},
                          "shapes": polygon((0, 0), (6, 0), (6, 30), (3, 30))}},
        "joints": {"draw": {"type": "prismatic", "a": "frame.O", "b": "plate.A", "direction": 0},
                   "drop": {"type": "prismatic", "a": "frame.P", "b": "pin.P", "direction": 90,
                            "limits": {"rest": -50}},
                   "on": {"type": "contact", "a": "plate", "b": "pin"},
                   "floor": {"type": "contact", "a": "pin", "b": "frame"}},
        "drivers": {"d": {"joint": "draw", "from": 0, "to": -60, "steps": 12}},
    }  # fmt: skip


def test_a_drop_happens_at_one_value_and_lands_on_what_is_next():
    motion = moved(overhang())
    assert motion.stop is None
    (_, landed), (kind, dropped) = events(motion, "on")
    assert (landed, kind) == (0.0, "drop") and dropped == pytest.approx(-15, abs=1e-6)
    assert events(motion, "floor") == [("touch", pytest.approx(-15, abs=1e-6))]
    (fell,) = motion.path.drops
    places = of(motion, "drop", np.array([np.nextafter(fell, 0.0), fell, motion.path.t1]))
    assert places == pytest.approx([5, -10, -10], abs=1e-9)


def test_blocks_in_a_row_push_each_other_to_the_wall():
    motion = moved(blocks(5, to=80, wall=150))
    assert [events(motion, f"c{k}") for k in range(1, 5)] == [[("touch", pytest.approx(10 * k))] for k in range(1, 5)]
    assert motion.stop is not None and motion.stop.reason == "contact"
    assert motion.stop.driver == pytest.approx(60, abs=1e-6)  # 150 less 4 × 20 less the first half block
    assert "'b4' is held by 'wall'" in motion.stop.text and "'b0' is held by 'b1'" in motion.stop.text


@pytest.mark.parametrize("thin", [1.0, 1e-3])
def test_nothing_passes_a_wall_thinner_than_a_step(thin: float):
    """A disc is driven through a wall in one step, and a free block between them is pushed, not jumped over."""
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                  "ram": {"points": {"A": [0, 0]}, "shapes": disc(5)},
                  "block": {"pose": [40, 0, 0], "points": {"B": [0, 0]}, "shapes": box(20, 30)},
                  "wall": {"fixed": True, "shapes": box(thin, 100, x=90 + thin / 2)}},
        "joints": {"push": {"type": "prismatic", "a": "frame.O", "b": "ram.A", "direction": 0},
                   "a": {"type": "contact", "a": "ram", "b": "block"},
                   "b": {"type": "contact", "a": "block", "b": "wall"}},
        "drivers": {"d": {"joint": "push", "from": 0, "to": 1000, "steps": 1}},
    }  # fmt: skip
    motion = moved(tree)
    assert motion.stop is not None and motion.stop.driver == pytest.approx(65, abs=1e-6)
    assert overlap(motion) < 1e-6


def test_a_bar_leans_on_a_corner_that_is_drawn_under_it():
    """The bar's lower edge passes through its pivot; a block's corner lifts it: tan of its lean is closed form."""
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "P": [0, 0]}},
                  "block": {"pose": [150, 0, 0], "points": {"B": [0, 0]}, "shapes": box(20, 40)},
                  "bar": {"pose": [0, 0, 60], "points": {"P": [0, 0]},
                          "shapes": polygon((0, 0), (200, 0), (200, 6), (0, 6))}},
        "joints": {"draw": {"type": "prismatic", "a": "frame.O", "b": "block.B", "direction": 0},
                   "lean": {"type": "revolute", "a": "frame.P", "b": "bar.P", "limits": {"rest": -80}},
                   "on": {"type": "contact", "a": "bar", "b": "block"}},
        "drivers": {"d": {"joint": "draw", "from": 150, "to": 40, "steps": 20}},
    }  # fmt: skip
    motion = moved(tree)
    assert motion.stop is None
    t = np.linspace(0.0, motion.path.t1, 200)
    corner = of(motion, "draw", t) - 10
    assert np.abs(np.tan(of(motion, "lean", t)) - 20 / corner).max() < 1e-9


def test_a_ratchet_is_periodic_and_holds_where_it_is():
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "ratchet", 0j, 40.0, 15).changes)
    turned = changed(made, Set(("drivers", "d"), {"joint": "ratchet-turn", "from": 0, "to": 360, "steps": 15}))
    held = []
    for steps in (1, 7, 3600):
        motion = simulate(turned, steps)
        drops = [at for kind, at in events(motion, "ratchet-hold") if kind == "drop"]
        assert len(drops) == 14 and np.abs(np.diff(drops) - 24).max() < 1e-6
        back = changed(made, Set(("drivers", "d"), {"joint": "ratchet-turn", "from": 20, "to": -90, "steps": steps}))
        stop = simulate(back).stop
        assert stop is not None and stop.reason == "contact" and "'ratchet-pawl' is held by" in stop.text
        held.append(math.degrees(stop.driver))
        t = np.linspace(0.3, 0.6, 50) * motion.path.t1
        pawl = of(motion, "ratchet-swing", t) - of(motion, "ratchet-swing", t + motion.path.t1 / 15)
        assert np.abs(pawl).max() < 1e-6
    assert np.abs(np.diff(held)).max() < 1e-9 and held[0] == pytest.approx(0, abs=1e-6)


def test_the_paper_feed_gains_a_tooth_a_stroke():
    motion = simulate(example("ratchet-feed")[0])
    ends = of(motion, "turn", np.array([0.0, 2.0, 4.0, 6.0]))
    assert np.degrees(np.diff(ends)) == pytest.approx(24, abs=1e-6)


def test_a_detent_centres_and_a_pawl_does_not():
    """A rest that pushes turns a free wheel until its roller lies in a seat; one that does not only leans on it."""
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "detent", 0j, 40.0, 6).changes)
    for pushes in (True, False):
        document = changed(made, Set(("parts", "detent-wheel", "pose", 2), 4),
                           Set(("joints", "detent-swing", "limits", "pushes"), pushes))  # fmt: skip
        document = changed(document, Set(("parts", "detent-arm", "pose", 2), 80))
        motion = simulate(document)
        turn = math.degrees(of(motion, "detent-turn", np.zeros(1))[0])
        assert turn == pytest.approx(0.0 if pushes else 4.0, abs=1e-6)


def test_parts_that_overlap_where_they_are_placed_are_told():
    tree = blocks(3, to=10)
    tree["parts"]["b1"]["pose"] = [18, 0, 0]
    stop = moved(tree).stop
    assert stop is not None and stop.t == 0.0 and stop.reason == "contact"
    assert "'b0' and 'b1' overlap by about 2 mm" in stop.text


@settings(max_examples=60, deadline=None, derandomize=True)
@given(st.integers(0, 10**6))
def test_who_holds_is_what_a_general_solver_says(seed: int):
    """Least movement with rows that hold one way, against sequential quadratic programming of SciPy."""
    random = np.random.default_rng(seed)
    count, rows = int(random.integers(2, 6)), int(random.integers(1, 6))
    root = random.normal(size=(count, count))
    cost, pull = root @ root.T + np.eye(count), random.normal(size=count)
    ways = random.normal(size=(rows, count))
    bounds = ways @ random.normal(size=count) - random.uniform(0, 1, rows)  # some place keeps all of them
    x, force = least(cost, pull, ways, bounds, np.zeros((0, count)), np.zeros(0))
    assert x is not None
    other = minimize(lambda y: 0.5 * y @ cost @ y - pull @ y, x * 0, jac=lambda y: cost @ y - pull, method="SLSQP",
                     constraints={"type": "ineq", "fun": lambda y: ways @ y - bounds, "jac": lambda y: ways},
                     options={"ftol": 1e-14, "maxiter": 500})  # fmt: skip
    assert np.abs(x - other.x).max() < 1e-4 * (1 + np.abs(x).max())
    assert (force >= 0).all() and np.abs(cost @ x - pull - ways.T @ force).max() < 1e-7 * (1 + force.max(initial=0))
    assert np.abs(force * (ways @ x - bounds)).max(initial=0) < 1e-7 * (1 + force.max(initial=0))


def test_what_can_not_be_kept_is_told_with_the_rows_that_fight():
    ways, bounds = np.array([[1.0, 0.0], [-1.0, 0.0], [0.0, 1.0]]), np.array([1.0, 1.0, -1.0])
    x, share = least(np.eye(2), np.zeros(2), ways, bounds, np.zeros((0, 2)), np.zeros(0))
    assert x is None and share[:2].min() > 0.5 and share[2] < 1e-9


CONVEX = polygon((12, 0), (3, 11), (-10, 6), (-8, -9), (6, -10))
HOLLOW = polygon((-12, -12), (12, -12), (12, -6), (-6, -6), (-6, 12), (-12, 12))


def heap(seed: int) -> dict[str, Any]:
    """A driven finger among free and jointed parts of convex and hollow outlines, placed by chance."""
    random = np.random.default_rng(seed)
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                             "finger": {"points": {"A": [0, 0]}, "shapes": CONVEX}}  # fmt: skip
    joints: dict[str, Any] = {"d": {"type": "prismatic", "a": "frame.O", "b": "finger.A", "direction": 0}}
    names, places = ["finger"], [0j]
    for k in range(int(random.integers(1, 4))):
        at = complex(random.uniform(36, 120), random.uniform(-22, 22))
        if min(abs(at - other) for other in places) < 36:
            continue
        name, pose = f"p{k}", [round(at.real, 3), round(at.imag, 3), round(float(random.uniform(-180, 180)), 2)]
        parts[name] = {"pose": pose, "points": {"A": [0, 0]}, "shapes": [CONVEX, HOLLOW][int(random.integers(2))]}
        if random.random() < 0.4:
            parts["frame"]["points"][f"F{k}"] = pose[:2]
            rest = {"limits": {"rest": pose[2]}} if random.random() < 0.7 else {}
            joints[f"j{k}"] = {"type": "revolute", "a": f"frame.F{k}", "b": f"{name}.A", **rest}
        joints |= {f"{other}-{name}": {"type": "contact", "a": other, "b": name} for other in names}
        names.append(name)
        places.append(at)
    return {"anakinema": 1, "parts": parts, "joints": joints,
            "drivers": {"d": {"joint": "d", "from": 0, "to": 150, "steps": 7}}}  # fmt: skip


@settings(max_examples=25, deadline=None, derandomize=True)
@given(st.integers(0, 10**6))
def test_along_random_drives_nothing_is_ever_deep(seed: int):
    motion, other = moved(heap(seed)), moved(heap(seed), 3)
    assert overlap(motion) < 1e-6 * 24
    end, other_end = (each.positions(np.array([each.path.t1])) for each in (motion, other))
    assert np.abs(end - other_end).max() < 1e-9


@settings(max_examples=15, deadline=None, derandomize=True)
@given(st.integers(0, 10**6))
def test_along_random_drags_nothing_is_ever_deep(seed: int):
    document = read_document(heap(seed))
    motion, random = simulate(document), np.random.default_rng(seed)
    start = motion.at(np.zeros(1))
    parts = [part.id for part in document.parts.values() if not part.fixed]
    grip = Grip(document, motion.system, start.q[0], start.coordinates[0], parts[-1], (0.0, 0.0))
    ways = []
    for _ in range(6):
        ways.append(grip.pull(float(random.uniform(-150, 250)), float(random.uniform(-120, 120))).q)
    assert deepest(motion, ways) < 1e-6 * 24


def deepest(motion: Motion, ways: list[np.ndarray]) -> float:
    """How deep outlines lie in each other at positions into which a hand brought them."""

    class Placed:
        document, system, path = motion.document, motion.system, motion.path

        @staticmethod
        def positions(_: np.ndarray) -> np.ndarray:
            return np.array(ways)

    return overlap(Placed)  # type: ignore[arg-type]


def test_a_drag_stops_at_a_wall_and_says_who_holds():
    document = read_document(blocks(3, to=5, wall=120))
    motion = simulate(document)
    start = motion.at(np.zeros(1))
    grip = Grip(document, motion.system, start.q[0], start.coordinates[0], "b0", (0.0, 0.0))
    found = grip.pull(1000.0, 0.0)
    assert found.q[motion.system.body("b0"), 0] == pytest.approx(120 - 50, abs=1e-5)
    assert "'b2' is held by 'wall'" in found.reason or "'wall' is held by 'b2'" in found.reason
    assert deepest(motion, [found.q]) < 1e-6 * 20


def test_letting_go_lets_what_has_a_rest_fall_back():
    document = read_document(cam_and_follower(ECCENTRIC, FLAT))
    motion = simulate(document)
    start = motion.at(np.zeros(1))
    grip = Grip(document, motion.system, start.q[0], start.coordinates[0], "foot", (0.0, 0.0))
    up = grip.pull(0.0, 70.0)
    assert up.q[motion.system.body("foot"), 1] == pytest.approx(70, abs=1e-3)
    way = grip.let_go()
    heights = [q[motion.system.body("foot"), 1] for q in way]
    assert len(way) > 1 and heights[-1] == pytest.approx(30, abs=1e-6)
    assert all(later <= sooner + 1e-9 for sooner, later in pairwise(heights))


def pushed_parallelogram(angle: float) -> Tree:
    """Two equal arms and a coupler that nothing drives, the first arm pushed from below."""
    x, y = 30 * math.cos(math.radians(angle)), 30 * math.sin(math.radians(angle))
    bar = [{"kind": "bar", "through": ["A", "B"], "width": 6}]
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"A": [0, 0], "D": [60, 0], "O": [20, 0]}},
                  "one": {"points": {"A": [0, 0], "B": [30, 0]}, "pose": [0, 0, angle], "shapes": bar},
                  "two": {"points": {"D": [0, 0], "C": [30, 0]}, "pose": [60, 0, angle]},
                  "coupler": {"points": {"B": [0, 0], "C": [60, 0]}, "pose": [x, y, 0]},
                  "pusher": {"points": {"P": [0, 0]}, "pose": [20, -40, 0], "shapes": box(10, 10)}},
        "joints": {"a": {"type": "revolute", "a": "frame.A", "b": "one.A"},
                   "b": {"type": "revolute", "a": "one.B", "b": "coupler.B"},
                   "c": {"type": "revolute", "a": "two.C", "b": "coupler.C"},
                   "d": {"type": "revolute", "a": "frame.D", "b": "two.D"},
                   "push": {"type": "prismatic", "a": "frame.O", "b": "pusher.P", "direction": 90},
                   "touch": {"type": "contact", "a": "pusher", "b": "one"}},
        "drivers": {"drive": {"joint": "push", "from": -40, "to": 0, "steps": 40}},
    }  # fmt: skip


@pytest.mark.parametrize(("angle", "told"), [(0, True), (-20, False), (10, False)])
def test_an_undriven_loop_that_could_go_two_ways_takes_the_least_and_says_so(angle: float, told: bool):
    """Pushed through the position in which it lies flat it carries on; from there the coupler turns least."""
    findings = analyse(read_document(pushed_parallelogram(angle)))
    state = findings.motion.state
    assert findings.motion.stop is None
    arm = state.coordinates[:, findings.motion.system.coordinates.index("a")]
    assert arm[-1] == pytest.approx(math.radians(29.37), abs=1e-3) and np.abs(arm).max() < 0.6
    coupler = state.q[:, findings.motion.system.body("coupler"), 2]
    assert np.abs(coupler).max() < 1e-5  # where it lies flat rounding hides the root of it
    assert any("could go on in two ways" in advice.text for advice in findings.advice) == told


def test_a_motion_of_thousands_of_turns_among_contacts_is_refused_at_once():
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "indexing", 0j, 40.0).changes)
    first = next(iter(made.joints))
    made = changed(made, Set(("drivers", "d"), {"joint": first, "from": 0, "to": 4e6, "steps": 10}))
    with pytest.raises(DocumentError, match=r"longer than 1,000 turns, too long among contacts"):
        simulate(made)
