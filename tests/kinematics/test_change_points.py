"""Places from which a motion could go on in two ways, and dead points: at starts, at rests and at ends."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from mechanisms import Tree, document, four_bar, slider_crank, turn

LAWS = ("uniform", "parabolic", "harmonic", "cycloidal", "modified-trapezoid", "modified-sine", "345", "4567")


def moved(tree: Tree) -> Motion:
    return simulate(read_document(tree))


def degrees(motion: Motion, joint: str) -> np.ndarray:
    return np.degrees(motion.state.coordinates[:, motion.system.coordinates.index(joint)])


def wheels(count: int, start: float = 0.0, beam: bool = False) -> Tree:
    """Wheels 100 apart that turn together: by a rod from each to the next, or by one beam on all of them."""
    parts: Tree = {"frame": {"points": {f"P{k}": [100 * k, 0] for k in range(count)}}}
    joints: Tree = {}
    x, y = 20 * math.cos(math.radians(start)), 20 * math.sin(math.radians(start))
    for k in range(count):
        parts[f"wheel{k}"] = {"points": {"O": [0, 0], "A": [20, 0]}, "pose": [100 * k, 0, start]}
        joints[f"axle{k}"] = {"type": "revolute", "a": f"frame.P{k}", "b": f"wheel{k}.O"}
    rods = [("beam", range(count))] if beam else [(f"rod{k}", range(k, k + 2)) for k in range(count - 1)]
    for rod, joined in rods:
        first = joined[0]
        points = {f"B{k}": [100 * (k - first), 0] for k in joined}
        parts[rod] = {"points": points, "pose": [100 * first + x, y, 0]}
        joints |= {f"{rod}.{k}": {"type": "revolute", "a": f"wheel{k}.A", "b": f"{rod}.B{k}"} for k in joined}
    joints = {name.replace(".", "-"): joint for name, joint in joints.items()}
    return document(parts, joints, drivers=turn(start, start + 360, 36, "axle0"))


def beside(one: Tree, two: Tree) -> Tree:
    """Two mechanisms in one document; what belongs to the second has a dash behind its name."""
    tree: Tree = {"anakinema": 1, **{key: dict(one[key]) for key in ("parts", "joints", "drivers")}}
    tree["parts"] |= {f"{name}-": part for name, part in two["parts"].items()}
    for name, joint in two["joints"].items():
        ends = {end: joint[end].replace(".", "-.") for end in "ab"}
        tree["joints"][f"{name}-"] = {**joint, **ends}
    for name, driver in two["drivers"].items():
        tree["drivers"][f"{name}-"] = {**driver, "joint": driver["joint"] + "-"}
    return tree


CRANK = four_bar(40, 120, 80, 100, drivers=turn(40, 400, 36, duration="1 s"))
OFF = four_bar(40, 120, 80, 100, drivers=turn(50, 400, 36, duration="1 s"))
FLAT = {
    "wheels in a row": (wheels(4), 3),
    "a beam on three wheels": (wheels(3, beam=True), 2),
    "a beam on four wheels": (wheels(4, beam=True), 3),
    "two of them": (beside(wheels(2), wheels(2)), 1),
    "a driver beside it that is off its start": (beside(wheels(2), OFF), 1),
    "it waits for another driver": (beside(wheels(2), CRANK), 1),
    "another driver waits for it": (beside(wheels(2), CRANK), 1),
}
FLAT["it waits for another driver"][0]["drivers"]["turn"] |= {"at": "1 s", "duration": "1 s"}
FLAT["another driver waits for it"][0]["drivers"]["turn-"]["at"] = "1 s"
FLAT["another driver waits for it"][0]["drivers"]["turn"]["duration"] = "1 s"


@pytest.mark.parametrize("name", FLAT)
def test_what_lies_flat_is_no_dead_point(name):
    """Cranks of one length side by side keep together all the way round (Grashof's case of equal sums)."""
    tree, last = FLAT[name]
    motion = moved(tree)
    assert motion.stop is None and motion.mobility.dof == len(tree["drivers"])
    assert degrees(motion, f"axle{last}") == pytest.approx(degrees(motion, "axle0"), abs=1e-7)
    if "two" in name:
        assert degrees(motion, "axle1-") == pytest.approx(degrees(motion, "axle0-"), abs=1e-7)


@pytest.mark.parametrize("apart", [0.02, 0.005, 0.001, 0.0003, 1e-5, 1e-7])
def test_what_lies_nearly_flat_is_no_dead_point(apart):
    for placed, start in ((apart, apart), (0, apart), (0, -apart), (apart, 0)):
        tree = wheels(2, placed)
        tree["drivers"]["turn"] |= {"from": start, "to": 360}
        for motion in (moved(tree), moved(with_a_tail(tree, "rod0"))):
            assert motion.stop is None
            assert degrees(motion, "axle1") == pytest.approx(degrees(motion, "axle0"), abs=1e-6)


def with_a_tail(tree: Tree, on: str) -> Tree:
    """With a part that hangs on another, and that nothing drives."""
    pin, spot = next(iter(tree["parts"][on]["points"])), tree["parts"][on]["pose"][:2]
    tree["parts"]["tail"] = {"points": {"P": [0, 0]}, "pose": [*spot, 20]}
    tree["joints"]["tail"] = {"type": "revolute", "a": f"{on}.{pin}", "b": "tail.P"}
    return tree


@pytest.mark.parametrize("law", LAWS)
@pytest.mark.parametrize("tail", [False, True])
def test_a_rest_at_a_change_point_changes_nothing(law, tail):
    """Opposite links 40 and 120 long: driven to where they lie in line, at rest there, and on. A parallelogram stays
    one, and a crossed one stays crossed, with tan(θ/2) / tan(φ/2) = −(120 − 40) / (120 + 40) (closed geometry)."""
    rise = [{"over": "1 s", "to": "140 deg", "law": law}, {"over": "1 s"}, {"over": "1 s", "to": "360 deg", "law": law}]
    for mode in ("open", "crossed"):
        tree = four_bar(40, 120, 40, 120, mode=mode, start=40, programs={"go": {"segments": rise}})
        tree["drivers"] = {"turn": {"joint": "main", "from": 40, "program": "go", "steps": 51}}
        motion = moved(with_a_tail(tree, "coupler") if tail else tree)
        crank, rocker = degrees(motion, "main"), degrees(motion, "pivot")
        assert motion.stop is None and crank[-1] == pytest.approx(400)
        resting = np.abs(crank - 180) < 1e-9
        assert resting.sum() > 10 and np.abs(rocker[resting]) == pytest.approx(180, abs=1e-6)
        if mode == "open":
            assert rocker == pytest.approx(crank, abs=1e-6)
        else:
            clear = ~resting & (np.abs(crank % 360 - 180) < 179)
            halves = np.tan(np.radians([crank[clear], rocker[clear]]) / 2)
            assert halves[0] == pytest.approx(-0.5 * halves[1], rel=1e-5)
            assert rocker[-1] == pytest.approx(rocker[0] - 360, abs=1e-7)


def test_a_crossed_linkage_comes_back_the_way_it_came():
    tree = four_bar(40, 120, 40, 120, mode="crossed", start=40)
    tree["drivers"] = turn(40, 180, 36, duration="1 s", back=True)
    rocker = degrees(moved(tree), "pivot")
    assert rocker == pytest.approx(rocker[::-1], abs=1e-6)


@pytest.mark.parametrize("law", LAWS)
@pytest.mark.parametrize("short", [1e-7, 0.0, -1e-7])
def test_a_slider_pushed_to_its_dead_centre(law, short):
    """Crank 30, rod 100: cos θ = (x² + 30² − 100²) / (60 x) wherever the slider is; it ends at 130, or a hair short of
    it, or can't be pushed a hair further."""
    push = {"joint": "ram", "to": 130 - short, "steps": 36, "law": law, "duration": "1 s"}
    motion = moved(slider_crank(30, 100, 0, drivers={"push": push}))
    x = motion.state.coordinates[:, motion.system.coordinates.index("ram")]
    wanted = np.degrees(np.arccos(np.clip((x**2 + 30**2 - 100**2) / (60 * x), -1, 1)))
    assert degrees(motion, "main") == pytest.approx(wanted, abs=2e-5)
    assert (motion.stop is None) == (short > 0) or short == 0
    assert motion.path.t1 <= 1.0
