"""Laws of motion: against the tables of the handbooks, against finite differences, and against one another: the same
way is gone whatever the law, through change points, to dead points and until a strand is taut."""

import math
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate
from anakinema.laws import STANDARD, cut_at_rests, fitted, sampled

HANDBOOK = {
    # R. L. Norton, Cam Design and Manufacturing Handbook: peak factors C_v and C_a (from memory).
    "parabolic": (2.0, 4.0), "harmonic": (1.571, 4.935), "cycloidal": (2.0, 6.283), "modified-trapezoid": (2.0, 4.888),
    "modified-sine": (1.760, 5.528), "345": (1.875, 5.774), "4567": (2.188, 7.526),
}  # fmt: skip
LAWS = list(STANDARD)


def linkage(
    driver: dict[str, Any], sides: tuple[float, float, float, float] = (100, 30, 90, 60), **more: Any
) -> Motion:
    """A four-bar (frame, crank, coupler, rocker) placed near 60°, moved by a driver of its crank."""
    frame, crank, coupler, rocker = sides
    end = crank * np.exp(1j * math.radians(60))
    reach = frame - end
    size = abs(reach)
    inner = math.acos(max(-1.0, min(1.0, (coupler**2 + size**2 - rocker**2) / (2 * coupler * size))))
    lean = float(np.angle(reach)) + inner
    knee = end + coupler * np.exp(1j * lean)
    tree = {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "D": [frame, 0]}},
            "crank": {"points": {"O": [0, 0], "A": [crank, 0]}, "pose": [0, 0, 60]},
            "coupler": {"points": {"A": [0, 0], "B": [coupler, 0]}, "pose": [end.real, end.imag, math.degrees(lean)]},
            "rocker": {"points": {"D": [0, 0], "B": [rocker, 0]},
                       "pose": [frame, 0, math.degrees(float(np.angle(knee - frame)))]},
        },
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
            "knee": {"type": "revolute", "a": "crank.A", "b": "coupler.A"},
            "elbow": {"type": "revolute", "a": "coupler.B", "b": "rocker.B"},
            "heel": {"type": "revolute", "a": "frame.D", "b": "rocker.D"},
        },
        "drivers": {"turn": {"joint": "main", **driver}},
        **more,
    }  # fmt: skip
    return simulate(read_document(tree))


@pytest.mark.parametrize("law", HANDBOOK)
def test_peak_velocity_and_acceleration_are_those_of_the_handbook(law: str) -> None:
    velocity, acceleration = HANDBOOK[law]
    assert STANDARD[law].peak(1) == pytest.approx(velocity, rel=1e-3)
    assert STANDARD[law].peak(2) == pytest.approx(acceleration, rel=2e-3)


@pytest.mark.parametrize("law", LAWS)
def test_a_law_rises_by_one_and_its_pieces_join(law: str) -> None:
    pieces = STANDARD[law].pieces
    assert pieces[0].at(0.0) == pytest.approx(0.0, abs=1e-14) and pieces[-1].at(1.0) == pytest.approx(1.0, abs=1e-13)
    for one, two in pairwise(pieces):
        for order in (0, 1) if law == "parabolic" else (0, 1, 2):
            assert one.at(one.stop, order) == pytest.approx(two.at(two.start, order), abs=1e-12)
    x = np.linspace(0.001, 0.999, 401)
    away = [abs(x - piece.stop) > 2e-6 for piece in pieces]
    x, h = x[np.all(away, axis=0)], 1e-6
    for order in (0, 1):
        slope = (sampled(pieces, x + h, order) - sampled(pieces, x - h, order)) / (2 * h)
        np.testing.assert_allclose(sampled(pieces, x, order + 1), slope, atol=2e-8)


@pytest.mark.parametrize("law", LAWS)
def test_driven_parts_have_the_rates_that_differences_have(law: str) -> None:
    motion = linkage({"from": 0, "to": 360, "duration": "2 s", "law": law})
    even = linkage({"from": 0, "to": 360, "duration": "2 s"})
    t, h = np.linspace(0.013, 1.987, 211), 1e-5
    cuts = np.array([each.t1 for each in motion.path.laws])
    t = t[np.abs(t[:, None] - cuts).min(axis=1) > 2 * h]
    state, before, after = motion.at(t), motion.at(t - h), motion.at(t + h)
    np.testing.assert_allclose(state.v, (after.q - before.q) / (2 * h), atol=1e-7 * np.abs(state.v).max())
    np.testing.assert_allclose(state.a, (after.v - before.v) / (2 * h), atol=1e-6 * np.abs(state.a).max())
    np.testing.assert_allclose(motion.extremes.high, even.extremes.high, atol=1e-9)
    np.testing.assert_allclose(motion.extremes.low, even.extremes.low, atol=1e-9)


@pytest.mark.parametrize("law", LAWS)
def test_the_dead_point_lies_where_it_lies_whatever_the_law(law: str) -> None:
    motion = linkage({"to": 350, "duration": "1 s", "law": law}, (100, 60, 90, 40))
    # Triple rocker: it ends where coupler and rocker lie in line, |A D| = 130, by the law of cosines.
    end = math.acos((100**2 + 60**2 - 130**2) / (2 * 100 * 60))
    assert motion.stop is not None and motion.stop.reason == "dead point"
    assert motion.stop.driver == pytest.approx(end, abs=1e-9)


@pytest.mark.parametrize("law", LAWS)
@pytest.mark.parametrize("span", [(60, 420), (60, 180), (180, 480)])
def test_a_parallelogram_goes_on_through_its_change_points(law: str, span: tuple[float, float]) -> None:
    motion = linkage({"from": span[0], "to": span[1], "duration": "1 s", "law": law}, (100, 40, 100, 40))
    assert motion.stop is None
    t = np.linspace(0.0, 1.0, 41)
    values = motion.at(t).coordinates
    np.testing.assert_allclose(values[:, 0], values[:, 3], atol=1e-7)


@pytest.mark.parametrize("law", ["uniform", "harmonic", "cycloidal", "4567"])
def test_a_strand_is_taut_where_it_is_taut_whatever_the_law(law: str) -> None:
    links = 4
    parts: dict[str, Any] = {"frame": {"fixed": True, "points": {"O": [0, 0], "way": [0, 0]}}}
    joints: dict[str, Any] = {}
    last = "frame.O"
    for k in range(links):
        parts[f"link{k}"] = {"points": {"A": [0, 0], "B": [12, 0]},
                             "pose": [8 * k, 0 if k % 2 == 0 else 9, 48 if k % 2 == 0 else -48]}  # fmt: skip
        joints[f"pin{k}"] = {"type": "revolute", "a": last, "b": f"link{k}.A"}
        last = f"link{k}.B"
    parts["puller"] = {"points": {"P": [0, 0]}, "pose": [32, 0, 0]}
    joints["hook"] = {"type": "revolute", "a": last, "b": "puller.P"}
    joints["pull"] = {"type": "prismatic", "a": "frame.way", "b": "puller.P", "direction": 0}
    driver = {"joint": "pull", "to": 60, "duration": "1 s", "law": law, "steps": 20}
    motion = simulate(read_document({"anakinema": 1, "parts": parts, "joints": joints, "drivers": {"pull": driver}}))
    assert motion.stop is not None and motion.stop.driver == pytest.approx(48.0, abs=1e-6)


def test_a_program_waits_and_comes_back() -> None:
    programs = {"work": {"segments": [
        {"over": "0.5 s", "to": "90 deg", "law": "cycloidal"}, {"over": "0.2 s"},
        {"over": "0.5 s", "to": 0, "law": "modified-sine"},
    ]}}  # fmt: skip
    motion = linkage({"from": 10, "program": "work"}, programs=programs)
    assert motion.planned == pytest.approx(1.2)
    found = np.degrees(motion.coordinates(np.array([0.0, 0.25, 0.5, 0.6, 0.7, 0.95, 1.2]))[:, 0])
    np.testing.assert_allclose(found, [10, 55, 100, 100, 100, 55, 10], atol=1e-9)


def test_a_sine_swings_by_its_amplitude() -> None:
    programs = {"swing": {"sine": {"amplitude": "40 deg", "period": "1 s", "cycles": 2.5}}}
    motion = linkage({"from": 90, "program": "swing"}, programs=programs)
    t = np.linspace(0, 2.5, 101)
    wanted = 90 + 40 * np.sin(2 * np.pi * t)
    np.testing.assert_allclose(np.degrees(motion.coordinates(t)[:, 0]), wanted, atol=1e-9)
    assert math.degrees(motion.extremes.high[0]) == pytest.approx(130, abs=1e-9)


def test_a_table_is_met_and_smooth() -> None:
    rows = [[0.1 * k, 30 * math.sin(0.6 * k)] for k in range(11)]
    motion = linkage({"from": 60, "program": "table"}, programs={"table": {"points": rows}})
    t = np.array([row[0] for row in rows])
    found = np.degrees(motion.coordinates(t)[:, 0])
    np.testing.assert_allclose(found, [60 + row[1] for row in rows], atol=1e-9)
    before, after = motion.at(t[1:-1] - 1e-9).v, motion.at(t[1:-1] + 1e-9).v
    np.testing.assert_allclose(before, after, atol=1e-5)


def arm(drivers: dict[str, Any], **more: Any) -> Motion:
    """Two links in a row, each with a driver."""
    tree = {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0]}},
            "upper": {"points": {"O": [0, 0], "A": [50, 0]}},
            "lower": {"points": {"A": [0, 0], "B": [40, 0]}, "pose": [50, 0, 0]},
        },
        "joints": {"shoulder": {"type": "revolute", "a": "frame.O", "b": "upper.O"},
                   "elbow": {"type": "revolute", "a": "upper.A", "b": "lower.A"}},
        "drivers": drivers, **more,
    }  # fmt: skip
    return simulate(read_document(tree))


def test_drivers_run_one_after_the_other_and_again() -> None:
    motion = arm({
        "lift": {"joint": "shoulder", "to": 60, "duration": "1 s", "law": "345", "at": "0.5 s"},
        "reach": {"joint": "elbow", "to": -30, "duration": "1 s", "after": "lift", "at": "0.25 s", "back": True,
        "times": 2},
    })  # fmt: skip
    assert motion.planned == pytest.approx(5.75)
    found = np.degrees(motion.coordinates(np.array([0.5, 1.0, 1.5, 1.75, 2.25, 2.75, 3.25, 3.75, 4.75, 5.75])))
    np.testing.assert_allclose(found[:, 0], [0, 30, *[60] * 8], atol=1e-9)
    np.testing.assert_allclose(found[:, 1], [0, 0, 0, 0, -15, -30, -15, 0, -30, 0], atol=1e-9)


def test_a_driver_follows_another_by_an_expression() -> None:
    motion = arm({
        "lift": {"joint": "shoulder", "from": 0, "to": 90, "duration": "1 s", "law": "cycloidal"},
        "keep": {"joint": "elbow", "follows": "-lift + tilt * sin(2*lift)"},
    }, parameters={"tilt": "10 deg"})  # fmt: skip
    values = motion.coordinates(np.linspace(0.0, 1.0, 51))
    wanted = -values[:, 0] + math.radians(10) * np.sin(2 * values[:, 0])
    np.testing.assert_allclose(values[:, 1], wanted, atol=1e-9)


def test_a_follower_accelerates_as_its_leader_does_not_as_rounding_does() -> None:
    programs = {"work": {"segments": [{"over": "0.4 s", "to": -30, "law": "cycloidal"}, {"over": "0.2 s"},
                                      {"over": "0.5 s", "to": 0, "law": "modified-sine"}]}}  # fmt: skip
    motion = arm({"lift": {"joint": "shoulder", "from": 100, "program": "work"},
                  "keep": {"joint": "elbow", "follows": "-lift - 0.3*lift"}}, programs=programs)  # fmt: skip
    gain = motion.at(np.linspace(0.001, 1.099, 500)).accelerations
    np.testing.assert_allclose(gain[:, 1], -1.3 * gain[:, 0], atol=1e-5 * np.abs(gain).max())
    assert len(motion.path.laws) < 60


def test_pieces_that_are_fitted_turn_only_at_their_ends() -> None:
    pieces = cut_at_rests(fitted(lambda x: math.exp(x) * math.sin(3 * x), 0.0, 2.0))
    for piece in pieces:
        rates = [piece.at(x, 1) for x in np.linspace(piece.start, piece.stop, 30)[1:-1].tolist()]
        assert min(rates) >= 0 or max(rates) <= 0
    with pytest.raises(ValueError, match="jumps"):
        fitted(lambda x: float(x > 0.3), 0.0, 1.0)


@pytest.mark.parametrize(("drivers", "programs", "message"), [
    ({"t": {"joint": "shoulder", "program": "x"}}, {}, "drivers.t.program: there is no program 'x'"),
    ({"t": {"joint": "shoulder", "to": 9, "law": "cyclodial"}}, {}, "drivers.t.law: unknown law 'cyclodial' (did"),
    ({"t": {"joint": "shoulder", "to": 9, "follows": "2*t"}}, {}, "has both 'follows' and 'to'"),
    ({"t": {"joint": "shoulder", "follows": "2*t"}}, {}, "drivers.t.follows: a driver can't follow itself"),
    ({"t": {"joint": "shoulder", "follows": "u"}, "u": {"joint": "elbow", "follows": "t"}}, {}, "waits for itself"),
    ({"t": {"joint": "shoulder", "follows": "2 $ 3"}}, {}, "drivers.t.follows: unexpected character"),
    ({"t": {"joint": "shoulder", "follows": "u +"}, "u": {"joint": "elbow", "to": 3}}, {}, "drivers.t.follows: "),
    ({"t": {"joint": "shoulder", "to": 9, "after": "u"}}, {}, "drivers.t.after: there is no driver 'u'"),
    ({"t": {"joint": "shoulder", "program": "p"}}, {"p": {"segments": [{"over": "9 deg", "to": "4 deg"}]}}, "over an"),
    ({"t": {"joint": "shoulder", "program": "p"}}, {"p": {"segments": [{"over": "1 s", "to": "4 mm"}]}}, "a length"),
    ({}, {"p": {"points": [[0, 0], [1, 2], [1, 3]]}}, "programs.p.points.2: two values at once: the motion would jump"),
    ({}, {"p": {"points": [[0, 0], [2, 2], [1, 3]]}}, "programs.p.points.2: runs back"),
    ({}, {"p": {"points": [[1, 0], [2, 2]]}}, "programs.p.points.0: a table begins at 0"),
    ({}, {"p": {"segments": [{"over": "0 s", "to": 3}]}}, "programs.p.segments.0.over: must be greater than zero"),
    ({}, {"p": {"segments": [{"over": "1 s", "law": "345"}]}}, "a dwell has no law"),
    ({}, {"p": {"segments": [{"over": "1e-300 s", "to": 3, "law": "345"}]}}, "segments.0.over: 1e-300 s is too short"),
    ({}, {"p": {"points": [[0, 0], ["1e-200 s", 3]]}}, "two values at once"),
    ({}, {"p": {"sine": {"amplitude": 3, "period": "1 s", "cycles": 1e-200}}}, "too short to be meant"),
    ({}, {"p": {}}, "programs.p: one of 'segments', 'points', 'sine' and 'harmonics' is wanted"),
    ({}, {"p": {"segments": [{"over": "360 deg", "to": "3 mm"}]}}, "a turn ends at another value"),
])  # fmt: skip
def test_what_makes_no_sense_is_told_with_its_place(drivers: Any, programs: Any, message: str) -> None:
    with pytest.raises(DocumentError) as caught:
        arm(drivers, programs=programs)
    assert any(message in str(fault) for fault in caught.value.faults), [str(fault) for fault in caught.value.faults]


def test_an_expression_that_jumps_is_refused() -> None:
    with pytest.raises(DocumentError, match=r"drivers\.keep\.follows"):
        arm({"lift": {"joint": "shoulder", "from": 0, "to": 90, "duration": "1 s"},
             "keep": {"joint": "elbow", "follows": "sqrt(lift - 1)"}})  # fmt: skip


def test_random_linkages_end_where_they_end_under_any_law() -> None:
    random = np.random.default_rng(12)
    message = 0
    while message < 60:
        sides = tuple(random.uniform(10, 120, 4).tolist())
        end = 60 + random.choice([-1, 1]) * random.uniform(20, 700)
        try:
            even = linkage({"to": end, "duration": "1 s"}, sides)
        except DocumentError:
            continue  # it does not close
        if even.stop is not None and abs(even.stop.driver - math.radians(60)) < 1e-3:
            continue  # it starts at its dead point
        message += 1
        law = str(random.choice(LAWS[1:]))
        motion = linkage({"to": end, "duration": "1 s", "law": law}, sides)
        assert (motion.stop is None) == (even.stop is None), (sides, law)
        if even.stop is not None and motion.stop is not None:
            assert motion.stop.driver == pytest.approx(even.stop.driver, abs=1e-8), (sides, law)
        np.testing.assert_allclose(motion.extremes.high, even.extremes.high, atol=1e-7)
        np.testing.assert_allclose(motion.extremes.low, even.extremes.low, atol=1e-7)
