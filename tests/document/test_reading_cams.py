"""What is wrong with a cam is told at its place, with what would mend it."""

import copy
import math

import numpy as np
import pytest

from anakinema.document import changed, read_document
from anakinema.document.segments import table_program
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from cams import RISE, cam, geometry
from gears import train


def told(tree):
    with pytest.raises(DocumentError) as caught:
        read_document(tree)
    return [str(fault) for fault in caught.value.faults]


def over(*segments):
    return cam(segments=[dict(zip(("over", "to", "law"), one, strict=False)) for one in segments])


@pytest.mark.parametrize(("tree", "place", "says"), [
    (over(("200 deg", 10, "345"), ("200 deg", 0, "345")), "joints.ride.program", "more than a turn; take 40 deg out"),
    (over(("2 s", 10, "345"), ("2 s", 0, "345")), "joints.ride.program", "runs over time"),
    (over(("90 deg", 10, "345"), ("90 deg", 4, "345")), "joints.ride.program", "add a segment that brings it back"),
    (over(("90 deg", "10 deg", "345"), ("90 deg", 0, "345")), "joints.ride.program", "counts a length"),
    (cam(low=30, base=24), "joints.ride", "both 'low' and 'base'"),
    (cam({"kind": "roller", "radius": 0}), "joints.ride.follower.radius", "greater than zero"),
    (cam({"kind": "rolled", "radius": 4}), "joints.ride.follower.kind", "did you mean 'roller'"),
    (cam(program="ris"), "joints.ride.program", "did you mean 'rise'"),
    (cam(shape={"kind": "cam", "joint": "rid"}), "parts.cam.shapes.0.joint", "did you mean 'ride'"),
    (cam(shape={"kind": "cam", "joint": "lift"}), "parts.cam.shapes.0.joint", "cam joint"),
    (cam({"kind": "flat", "direction": 0}, shape={"kind": "cam", "joint": "ride", "groove": True, "cut": True}),
     "parts.cam.shapes.0.groove", "guides a roller"),
    (cam(shape={"kind": "cam", "joint": "ride", "groove": True, "width": 9}), "parts.cam.shapes.0.groove", "wider"),
    (cam(base=1e99), "joints.ride.base", "1e+99"),
    (cam(base=-3), "joints.ride.base", "greater than zero"),
    (cam(swings=True, base=900, segments=[{"over": "90 deg", "to": "-9 deg"}, {"over": "90 deg", "to": 0}]),
     "joints.ride.base", "the follower can't be placed"),
    (cam(a="lift"), "joints.ride", "to itself"),
])  # fmt: skip
def test_faults(tree, place, says):
    faults = told(tree)
    assert any(fault.startswith(place) and says in fault for fault in faults), faults


def test_a_knife_needs_no_radius_and_a_roller_does():
    tree = cam()
    del tree["joints"]["ride"]["follower"]["radius"]
    assert "'radius' is missing" in told(tree)[0]
    tree["joints"]["ride"]["follower"] = {"kind": "knife", "at": "foot.F", "radius": 3}
    assert any("radius" in str(warning) for warning in read_document(tree).warnings)
    del tree["joints"]["ride"]["follower"]["radius"]
    assert read_document(tree).couplings["ride"].cam is not None


def test_a_follower_elsewhere_and_a_shaft_on_another_part_are_told():
    tree = cam()
    tree["joints"]["ride"]["follower"]["at"] = "cam.C"
    assert "is not moved by 'lift'" in told(tree)[0]
    tree = cam()
    tree["parts"]["arm"] = {"points": {"O": [0, 0], "Q": [0, 0]}}
    tree["joints"]["swing"] = {"type": "revolute", "a": "frame.O", "b": "arm.O"}
    tree["joints"]["turn"]["a"] = "arm.Q"
    assert "let one part, or one rigid group, carry both" in told(tree)[0]


def test_without_a_follower_the_law_holds_and_there_is_no_profile():
    tree = cam()
    del tree["joints"]["ride"]["follower"]
    assert "has no 'follower'" in told(tree)[0]
    tree["parts"]["cam"]["shapes"] = []
    found = analyse(read_document(tree))
    assert found.cams == {} and found.motion.mobility.dof == 1
    assert found.motion.extremes.high[found.motion.system.coordinates.index("lift")] == pytest.approx(42)


def test_either_side_of_a_joint_may_be_the_cam_or_the_follower():
    """Turned round joints, with coordinates that count the other way, give the same outline."""
    wanted = geometry(cam())
    for turned in ("turn", "lift"):
        tree = copy.deepcopy(cam())
        joint = tree["joints"][turned]
        joint["a"], joint["b"] = joint["b"], joint["a"]
        if turned == "lift":
            joint["direction"] = 90
            tree["programs"]["rise"]["segments"] = [
                {**one, **({"to": "-12 mm"} if one.get("to") == "12 mm" else {})} for one in RISE]  # fmt: skip
        else:
            tree["programs"]["rise"]["segments"] = [
                {"over": "120 deg"}, {"over": "90 deg", "to": "12 mm", "law": "modified-sine"}, {"over": "60 deg"},
                {"over": "90 deg", "to": 0, "law": "cycloidal"}]  # fmt: skip
        found = geometry(tree)
        assert found.least_radius() == pytest.approx(wanted.least_radius(), abs=1e-9)
        motion = analyse(read_document(tree)).motion
        column = motion.system.coordinates.index("lift")
        assert (motion.extremes.high - motion.extremes.low)[column] == pytest.approx(12)


def test_a_wedge_holds_beyond_its_ends():
    tree = cam(segments=[{"over": "40 mm", "to": "12 mm", "law": "cycloidal"}], at=20)
    tree["joints"]["turn"] = {"type": "prismatic", "a": "frame.O", "b": "cam.C", "direction": 180}
    tree["drivers"]["d"] = {"joint": "turn", "from": -10, "to": 60, "steps": 70}
    tree["parts"]["cam"]["shapes"][0]["back"] = 8
    found = analyse(read_document(tree))
    motion = found.motion
    lift = motion.coordinates(motion.state.t)[:, motion.system.coordinates.index("lift")]
    assert lift[0] == pytest.approx(20) and lift[-1] == pytest.approx(32) and lift[30] == pytest.approx(26)
    assert found.cams["ride"].undercut == () and 0 < found.cams["ride"].pressure.value < 1


def test_copies_mirrored_parts_and_sub_assemblies_carry_their_cams():
    tree = cam()
    inner = {key: tree.pop(key) for key in ("programs", "parts", "joints")}
    tree.pop("drivers")
    tree["programs"] = inner.pop("programs")
    tree["assemblies"] = {"box": inner}
    tree["parts"] = {"one": {"assembly": "box", "pose": [0, 0, 0]}, "two": {"assembly": "box", "pose": [200, 0, 0],
                                                                            "mirror": True}}  # fmt: skip
    tree["drivers"] = {name: {"joint": f"{name}/turn", "from": 0, "to": 360, "steps": 12} for name in ("one", "two")}
    try:
        found = analyse(read_document(tree))
    except DocumentError as error:
        pytest.fail(str(error))
    motion = found.motion
    assert set(found.cams) == {"one/ride", "two/ride"}
    columns = [motion.system.coordinates.index(f"{use}/lift") for use in ("one", "two")]
    travel = (motion.extremes.high - motion.extremes.low)[columns]
    assert travel == pytest.approx([12, 12])


def test_a_sum_of_harmonics_and_a_table_are_programs_too():
    tree = cam(at=40)
    tree["programs"]["rise"] = {"harmonics": [{"order": 1, "amplitude": "5 mm", "phase": "30 deg"},
                                              {"order": 4, "amplitude": "0.6 mm"}]}  # fmt: skip
    document = read_document(tree)
    a = np.linspace(0, 2 * math.pi, 400)
    law = document.couplings["ride"].law.lift(a)
    wanted = 5 * np.sin(a + math.pi / 6) + 0.6 * np.sin(4 * a)
    assert law[0] == pytest.approx(wanted, abs=1e-9)
    assert law[2] == pytest.approx(-5 * np.sin(a + math.pi / 6) - 9.6 * np.sin(4 * a), abs=1e-5)
    motion = analyse(document).motion
    column = motion.system.coordinates.index("lift")
    t = np.linspace(0, motion.path.t1, 77)
    shaft = motion.coordinates(t)[:, motion.system.coordinates.index("turn")]
    lift = motion.coordinates(t)[:, column] - motion.coordinates(t[:1])[:, column]
    assert lift == pytest.approx(document.couplings["ride"].law.lift(shaft)[0] - wanted[0], abs=1e-8)
    made = changed(document, *table_program(document, "ride", [[0, 0], [120, 7], [240, 3], [360, 0]]))
    assert made.couplings["ride"].law.lift(np.array([math.radians(120)]))[0, 0] == pytest.approx(7)
    tree["programs"]["rise"]["harmonics"][0]["order"] = 1.5
    assert "a whole number from 0 to 360" in told(tree)[0]


def test_a_yoke_where_the_law_allows_it_and_told_where_it_does_not():
    even = [{"over": "180 deg", "to": "9 mm", "law": "345"}, {"over": "180 deg", "to": 0, "law": "345"}]
    for follower in ({"kind": "flat", "direction": 0, "yoke": True}, {"kind": "roller", "radius": 6, "yoke": True}):
        found = geometry(cam(follower, even, at=40))
        low, high, _ = found.across()
        assert (low, high) == pytest.approx((89, 89))
        (fault,) = told(cam(follower, at=40))
        assert fault.startswith("joints.ride.follower.yoke: the law does not allow a yoke: across the cam there are")
    (fault,) = told(cam({"kind": "roller", "radius": 6, "yoke": True}, even, at=40, offset=5))
    assert "its way passes aside" in fault
    (fault,) = told(cam({"kind": "roller", "radius": 6, "yoke": True}, [{"over": "180 deg", "to": "-9 deg"}, {
        "over": "180 deg", "to": 0}], swings=True, base=24))  # fmt: skip
    assert "this one swings" in fault


def test_a_conjugate_pair_holds_its_follower_both_ways():
    """Two cams of one law on a shaft, with a roller each on one follower: both profiles are sound, the second joint is
    redundant, and the motion is that of the first."""
    tree = cam(at=40)
    tree["parts"]["foot"]["points"]["G"] = [0, -100]
    tree["parts"]["cam"]["shapes"] += [{"kind": "cam", "joint": "back", "depth": [4, 6]}]
    tree["joints"]["back"] = {"type": "cam", "a": "turn", "b": "lift", "program": "rise", "low": 40,
                              "follower": {"kind": "roller", "at": "foot.G", "radius": 6}}  # fmt: skip
    tree["joints"]["ride"]["low"] = 40
    found = analyse(read_document(tree))
    assert found.motion.mobility.dof == 1 and found.motion.mobility.redundant == ("back",)
    one, two = (found.cams[name] for name in ("ride", "back"))
    assert not one.undercut and not two.undercut
    assert two.base == pytest.approx(100 - 52 - 6) and one.base == pytest.approx(34)


def test_damaged_cams_and_wheels_are_told_and_break_nothing():
    """Found with mutants of the examples: a side that is gone, a type that is none, a constant law, no teeth."""
    tree = cam()
    del tree["joints"]["ride"]["b"]
    assert any("joints.ride" in fault for fault in told(tree))
    tree = cam()
    tree["joints"]["turn"]["type"] = "revolutute"
    assert any("did you mean 'revolute'" in fault for fault in told(tree))
    tree = cam()
    del tree["parts"]["cam"]["points"]["C"]
    assert any("C" in fault for fault in told(tree))
    tree = cam()
    tree["programs"]["rise"] = {"harmonics": [{"order": 0, "amplitude": "3 mm"}]}
    assert analyse(read_document(tree)).motion.stop is None
    for teeth in ("x", 0, None):
        wheel = {"kind": "gear", "center": "O", "module": 2, "teeth": teeth}
        other = train({"module": 2, "teeth": 20}, {"module": 2, "teeth": 20}, (40, 0))
        other["parts"]["two"]["shapes"] = [wheel]
        assert any("parts.two.shapes.0.teeth" in fault for fault in told(other))
