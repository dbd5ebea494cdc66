"""Studies against closed forms: a tuned stroke, a slot, two links that meet, the variance of a linear case; and the
same table wherever it is worked out."""

import json
import math
import os
import signal
from itertools import pairwise
from typing import Any

import numpy as np
import pytest

from anakinema.cli import main
from anakinema.document import Document, Set, changed, read_document
from anakinema.document.model import Position
from anakinema.errors import DocumentError
from anakinema.formats.project import dumps, example
from anakinema.kinematics.positions import to_and_fro, way_to
from anakinema.kinematics.simulation import simulate
from anakinema.studies import many, trials
from anakinema.studies.asked import Build, built, built_together
from anakinema.studies.builds import Builds, with_numbers
from anakinema.studies.many import many_built
from anakinema.studies.reports import sweep_text
from anakinema.studies.sweeping import axis, rows, sweep, table_csv
from anakinema.studies.tolerances import tolerances, wilson
from anakinema.studies.travel import free_travel, limits_change
from anakinema.studies.tuning import tune


def slider_crank(**more: Any) -> Document:
    """An offset slider-crank whose throw, rod and offset are parameters."""
    tree = {
        "anakinema": 1,
        "parameters": {"throw": "30 mm", "rod": "100 mm", "offset": "12 mm"},
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "way": [0, "offset"]}},
            "crank": {"points": {"O": [0, 0], "P": ["throw", 0]}, "pose": [0, 0, 20]},
            "rod": {"points": {"P": [0, 0], "Q": ["rod", 0]}, "pose": [28, 10, 0]},
            "ram": {"points": {"Q": [0, 0]}, "pose": [128, 12, 0]},
        },
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
            "big": {"type": "revolute", "a": "crank.P", "b": "rod.P"},
            "small": {"type": "revolute", "a": "rod.Q", "b": "ram.Q"},
            "slide": {"type": "prismatic", "a": "frame.way", "b": "ram.Q", "direction": 0},
        },
        "drivers": {"turn": {"joint": "main", "from": 20, "to": 380, "steps": 72}},
        "checks": {"stroke": {"measure": "travel", "joint": "slide", "at_least": 60}},
    }
    return read_document(tree | more)


def stroke(throw: float, rod: float, offset: float) -> float:
    """The stroke of an offset slider-crank, by the right triangles of its two dead centres."""
    return math.sqrt((rod + throw) ** 2 - offset**2) - math.sqrt((rod - throw) ** 2 - offset**2)


# -- builds ----------------------------------------------------------------------------------------------------


def test_builds_that_share_the_branch_are_those_that_are_followed() -> None:
    document, _ = example("sewing-head")
    builds = Builds(document)
    random = np.random.default_rng(4)
    for _ in range(12):
        numbers = {"throw": f"{15 + random.normal(0, 0.3)!r} mm", "link": f"{38 + random.normal(0, 0.3)!r} mm"}
        near, alone = builds.motion_with(numbers), simulate(with_numbers(document, numbers))
        t = np.linspace(0.0, near.planned, 40)
        np.testing.assert_allclose(near.at(t).q, alone.at(t).q, atol=1e-9)
        np.testing.assert_allclose(near.at(t).a, alone.at(t).a, rtol=1e-7, atol=1e-5)
        np.testing.assert_allclose(near.extremes.high, alone.extremes.high, atol=1e-9)
    assert builds.shared == 12


@pytest.mark.parametrize("law", ["345", "modified-sine"])
def test_builds_share_the_branch_under_any_law(law: str) -> None:
    document = slider_crank(drivers={"turn": {"joint": "main", "from": 20, "to": 380, "duration": "2 s", "law": law}})
    builds = Builds(document)
    near = builds.motion_with({"throw": "34 mm"})
    assert builds.shared == 1
    assert float(np.ptp([near.extremes.low[3], near.extremes.high[3]])) == pytest.approx(stroke(34, 100, 12), abs=1e-9)


def test_a_build_in_another_configuration_is_followed_anew() -> None:
    builds = Builds(slider_crank())
    found = builds.motion_with({"throw": "104 mm"})  # the crank can't go round
    assert builds.followed == 1 and found.stop is not None


# -- tuning ----------------------------------------------------------------------------------------------------


def test_a_tuned_stroke_is_that_of_the_closed_form() -> None:
    found = tune(slider_crank(), "throw", "checks.stroke", 70.0, 20.0, 50.0)
    assert len(found.solutions) == 1
    assert stroke(found.solutions[0], 100, 12) == pytest.approx(70.0, abs=1e-7)
    by_end = tune(slider_crank(), "offset", "joints.slide.max", math.sqrt(130**2 - 25**2), 1.0, 40.0)
    assert by_end.solutions == pytest.approx((25.0,), abs=1e-6)


def test_all_solutions_are_found_and_a_place_that_is_only_touched() -> None:
    """The least place of the ram, (rod − throw)² = x² + offset², is the same for offsets ±o, and greatest at 0."""
    document = slider_crank(parameters={"throw": "30 mm", "rod": "100 mm", "offset": "1 mm"})
    wanted = math.sqrt(70**2 - 9**2)
    both = tune(document, "offset", "joints.slide.min", wanted, -20.0, 21.0)
    assert both.solutions == pytest.approx((-9.0, 9.0), abs=1e-6)
    top = tune(document, "offset", "joints.slide.min", 70.0, -20.3, 20.1)
    assert top.solutions == pytest.approx((0.0,), abs=1e-3)


def test_what_can_not_be_had_tells_the_nearest_and_where_it_breaks() -> None:
    found = tune(slider_crank(), "throw", "checks.stroke", 500.0, 20.0, 120.0)
    assert not found.solutions and found.nearest is not None
    # The crank goes round while throw + offset is less than the rod.
    assert found.breaks[0].low == pytest.approx(88.0, abs=1e-4)
    assert found.nearest[0] == pytest.approx(88.0, abs=1e-4)
    assert "dead point" in found.breaks[0].reason
    flat = tune(slider_crank(), "offset", "joints.main.travel", 1.0)
    assert flat.flat and not flat.solutions
    for wrong in ({"parameter": "thrw"}, {"name": "checks.strok"}, {"low": 5.0, "high": 5.0}):
        with pytest.raises(DocumentError, match=r"did you mean|empty"):
            tune(slider_crank(), **({"parameter": "throw", "name": "checks.stroke", "wanted": 1.0} | wrong))


# -- sweeps ----------------------------------------------------------------------------------------------------


def swept(document: Document, jobs: int | None) -> str:
    axes = [axis(document, "throw", 20.0, 100.0, 5), axis(document, "rod", 90.0, 110.0, 3)]
    return table_csv(*rows(sweep(document, axes, ["joints.slide.travel"], True, jobs)))


def test_a_sweep_is_the_same_from_one_process_two_and_a_cluster(monkeypatch: pytest.MonkeyPatch) -> None:
    from dask.distributed import Client, LocalCluster
    from joblib import parallel_config

    document = slider_crank()
    alone = swept(document, 1)
    lines = alone.splitlines()
    assert lines[0].startswith("throw,rod,joints.slide.travel,stroke.value,stroke.outcome,passes,trouble")
    first = lines[1].split(",")
    assert float(first[2]) == pytest.approx(stroke(20, 90, 12), abs=1e-9)
    assert lines[-1].endswith('"') or "dead point" in lines[-1]
    assert swept(document, 2) == alone
    monkeypatch.setattr(many, "get_all_start_methods", list)  # as where there is a window
    assert swept(document, 2) == alone
    local = LocalCluster(n_workers=1, threads_per_worker=1, processes=False, dashboard_address=None)
    with local, Client(local), parallel_config(backend="dask"):
        assert swept(document, None) == alone


def test_builds_side_by_side_are_what_each_is_by_itself() -> None:
    """Whatever is asked of them, where some are limited, some can't be put together, and some are followed anew."""
    checks = {
        "swing": {"measure": "coordinate", "joint": "main", "at_least": -1, "at_most": 400},
        "fast": {"measure": "velocity", "joint": "slide", "at_most": 900, "at_least": -900},
        "pull": {"measure": "acceleration", "joint": "slide", "at_most": 9000},
        "push": {"measure": "transmission_angle", "joint": "small", "at_least": 40},
        "eased": {"measure": "pressure_angle", "joint": "small", "at_most": 60},
        "near": {"measure": "distance", "a": "frame.O", "b": "ram.Q", "at_least": 50},
        "twice": {"measure": "reversals", "joint": "slide", "at_most": 1},
    }
    tree = dict(slider_crank().tree)
    tree["checks"] = {**tree["checks"], **checks}
    tree["joints"] = {**tree["joints"], "slide": {**tree["joints"]["slide"], "limits": {"max": 136}}}
    document = read_document(tree)
    random = np.random.default_rng(4)
    several = [{"throw": float(throw), "offset": float(offset), "rod": float(rod)} for throw, offset, rod in zip(
        random.uniform(25, 42, 40), random.uniform(-20, 20, 40), random.uniform(92, 104, 40), strict=True)]  # fmt: skip
    several += [{"throw": 99.0}, {"rod": "nothing"}, {"throw": -1.0}]
    builds = Builds(document)
    alone = [built(builds, numbers, []) for numbers in several]
    beside = list(built_together(Builds(document), several, []))
    assert len({build.stopped for build in alone}) > 2 and any(build.broken for build in alone)

    def message(build: Build) -> tuple[Any, ...]:
        return build.outcomes, build.stopped, build.broken

    assert [message(build) for build in beside] == [message(build) for build in alone]
    for one, other in zip(alone, beside, strict=True):
        assert other.found == pytest.approx(one.found, abs=1e-9)
        assert other.margins == pytest.approx(one.margins, abs=1e-9)


def test_what_was_not_judged_or_does_not_arrive_passes_nothing() -> None:
    """Checks of clearances that are left out are counted and told; a build that stops passes nothing, whatever its
    checks say; of a document without checks nothing is said to pass."""
    tree = slider_crank().tree
    tree = {**tree, "checks": {**tree["checks"], "gap": {"measure": "clearance", "parts": ["crank", "frame"],
                                                         "at_least": 1}}}  # fmt: skip
    short = sweep(document := read_document(tree), [axis(document, "throw", 20.0, 30.0, 2)], (), clearance=False)
    assert short.left_out == ("gap",) and "pass all checks but 1 of clearances, not judged" in sweep_text(short)
    assert sweep(document, [axis(document, "throw", 20.0, 30.0, 2)]).left_out == ()
    stuck = read_document({**tree, "checks": {"low": {"measure": "travel", "joint": "slide", "at_most": 1e4}}})
    found = sweep(stuck, [axis(stuck, "throw", 30.0, 130.0, 2)])
    assert [(build.passes, bool(build.stopped)) for build in found.builds] == [(True, False), (False, True)]
    bare = read_document({**tree, "checks": {}})
    assert "pass no check, for there is none" in sweep_text(sweep(bare, [axis(bare, "throw", 20.0, 30.0, 2)]))


def test_a_sweep_of_too_much_or_twice_the_same_is_refused() -> None:
    document = slider_crank()
    one = axis(document, "throw", 20.0, 30.0, 400)
    with pytest.raises(DocumentError, match="160,000 builds"):
        sweep(document, [one, axis(document, "rod", 90.0, 110.0, 400)])
    with pytest.raises(DocumentError, match="two that differ"):
        sweep(document, [one, one])


# -- tolerances ------------------------------------------------------------------------------------------------


def linear() -> Document:
    """A slide from a to a + b: its travel is a + b, linear in both."""
    return read_document({
        "anakinema": 1,
        "parameters": {"a": {"value": "40 mm", "tolerance": "0.3 mm"},
                       "b": {"value": "20 mm", "tolerance": {"by": "0.2 mm", "spread": "uniform"}}},
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "block": {"points": {"Q": [0, 0]}}},
        "joints": {"slide": {"type": "prismatic", "a": "frame.O", "b": "block.Q", "direction": 0}},
        "drivers": {"push": {"joint": "slide", "from": 0, "to": "a + b"}},
        "checks": {"far": {"measure": "travel", "joint": "slide", "at_least": 60}},
    })  # fmt: skip


def test_a_linear_case_has_the_variance_and_the_ends_of_arithmetic() -> None:
    found = tolerances(linear(), 4000, seed=3)
    (one,) = found.spreads
    deviation = math.hypot(0.3 / 3, 0.2 / math.sqrt(3))
    assert one.mean == pytest.approx(60.0, abs=4 * deviation / math.sqrt(4000))
    assert one.deviation == pytest.approx(deviation, rel=0.05)
    assert one.worst == pytest.approx((59.5, 60.5), abs=1e-9)
    assert one.low_share < 0.5 < one.high_share and not one.worst_passes
    assert one.matters["b"] / one.matters["a"] == pytest.approx((0.2**2 / 3) / (0.1**2), rel=0.1)
    again = tolerances(linear(), 200, seed=3, jobs=1)
    np.testing.assert_array_equal(again.values["far"], tolerances(linear(), 200, seed=3, jobs=1).values["far"])
    assert not np.array_equal(again.values["far"], tolerances(linear(), 200, seed=4, jobs=1).values["far"])


def test_worst_case_of_the_slider_crank_is_that_of_its_corners() -> None:
    sizes = {"throw": (30.0, 0.05), "rod": (100.0, 0.2), "offset": (12.0, 0.1)}
    given = {name: {"value": f"{value} mm", "tolerance": {"by": by, "spread": "worst"}}
             for name, (value, by) in sizes.items()}  # fmt: skip
    found = tolerances(slider_crank(parameters=given), 60, jobs=1)
    corners = [stroke(*(value + sign * by for (value, by), sign in zip(sizes.values(), signs, strict=True)))
               for signs in np.ndindex(2, 2, 2) for signs in [tuple(2 * s - 1 for s in signs)]]  # fmt: skip
    assert found.spreads[0].worst == pytest.approx((min(corners), max(corners)), abs=1e-9)
    assert found.spreads[0].least >= min(corners) - 1e-9


@pytest.mark.parametrize(
    ("to", "ends"),
    [
        ("60 mm + a - 5*a*a/(1 mm)", (60 - 0.3 - 0.45, 60.05)),  # greatest at a = 0.1, between the ends
        ("60 mm + a*b/(1 mm)", (60 - 0.3 * 0.2, 60 + 0.3 * 0.2)),  # a saddle: no slope in the middle
        ("60 mm - (a - b)^2/(1 mm)", (60 - 0.5**2, 60.0)),
    ],
)
def test_a_worst_case_between_the_ends_is_found(to: str, ends: tuple[float, float]) -> None:
    tree = linear().tree
    parameters = {name: {"value": "0 mm", "tolerance": {"by": by, "spread": "uniform"}}
                  for name, by in (("a", 0.3), ("b", 0.2))}  # fmt: skip
    drivers = {"push": {"joint": "slide", "from": 0, "to": to}}
    found = tolerances(read_document({**tree, "parameters": parameters, "drivers": drivers}), 50, jobs=1)
    assert found.spreads[0].worst == pytest.approx(ends, abs=1e-9)


def two_arms() -> Document:
    """Two uses of an arm on pins 200 mm apart, driven alike: their ends are 200 + r₂ e^{iφ} − r₁ e^{iφ} apart, at most
    200 + |r₂ − r₁|."""
    arm = {
        "parameters": {"half": "size/2", "reach": {"value": "2*half", "tolerance": "0.3 mm"}},
        "parts": {"base": {"fixed": True, "points": {"O": [0, 0]}},
                  "link": {"points": {"O": [0, 0], "P": ["reach", 0]}}},
        "joints": {"pin": {"type": "revolute", "a": "base.O", "b": "link.O"}},
    }  # fmt: skip
    right = {"assembly": "arm", "fixed": True, "pose": [200, 0, 0], "parameters": {"reach": "60 mm"}}
    apart = {"measure": "distance", "a": "left/link.P", "b": "right/link.P"}
    return read_document({
        "anakinema": 1, "parameters": {"size": "50 mm"}, "assemblies": {"arm": arm},
        "parts": {"left": {"assembly": "arm", "fixed": True}, "right": right},
        "drivers": {name: {"joint": f"{name}/pin", "from": 0, "to": 180, "steps": 6} for name in ("left", "right")},
        "measures": {"apart": apart}, "checks": {"far": {**apart, "at_most": 209}},
    })  # fmt: skip


@pytest.mark.parametrize(
    ("name", "solutions"),
    [("size", (45, 75)), ("arm.half", (22.5, 37.5)), ("arm.reach", (45, 75)), ("left/reach", (45, 75)),
     ("right/reach", (35, 65)), ("left/half", (22.5, 37.5))],
)  # fmt: skip
def test_numbers_of_sub_assemblies_are_turned_for_all_uses_or_for_one(name: str, solutions: tuple[float, ...]) -> None:
    assert tune(two_arms(), name, "measures.apart.max", 215.0).solutions == pytest.approx(solutions, abs=1e-6)


def test_every_use_of_a_definition_varies_by_itself() -> None:
    found = tolerances(two_arms(), 2000, seed=2, jobs=1)
    assert set(found.deviations) == {"left/reach", "right/reach"}
    (one,) = found.spreads
    assert one.worst == pytest.approx((209.4, 210.6), abs=1e-9)
    assert one.deviation == pytest.approx(math.sqrt(2) * 0.1, rel=0.05)
    with pytest.raises(DocumentError, match="did you mean 'left/reach'"):
        tune(two_arms(), "left/reech", "measures.apart.max", 215.0)


def test_the_interval_is_wilsons() -> None:
    # E. B. Wilson, 1927, by its formula: 8 of 10 at 95 %.
    assert wilson(8, 10) == pytest.approx((0.8, 0.4902, 0.9433), abs=1e-4)
    assert wilson(0, 50)[1] == 0.0 and wilson(50, 50)[2] == pytest.approx(1.0)


@pytest.mark.parametrize(("tolerance", "message"), [
    ("5 deg", "a length is wanted"), (-1, "must be greater than zero"), ({"by": 1, "spread": "gauss"}, "one of normal"),
    ({"spread": "normal"}, "'by' is missing"),
])  # fmt: skip
def test_a_tolerance_that_makes_no_sense_is_told(tolerance: Any, message: str) -> None:
    with pytest.raises(DocumentError) as caught:
        slider_crank(parameters={"throw": {"value": "30 mm", "tolerance": tolerance}, "rod": 100, "offset": 12})
    assert any(message in str(fault) and "parameters.throw.tolerance" in str(fault) for fault in caught.value.faults)


# -- free travel -----------------------------------------------------------------------------------------------


def where(document: Document) -> tuple[Any, Any]:
    motion = simulate(document)
    return motion, motion.positions(np.zeros(1))[0]


def test_free_travel_of_a_pin_in_its_slot() -> None:
    document = read_document({
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"S": [0, 0]}, "depth": [0, 5], "shapes": [
                {"kind": "rectangle", "center": [0, 0], "size": [100, 40]},
                {"kind": "slot", "through": [[-30, 0], [30, 0]], "width": 10, "cut": True}]},
            "pin": {"points": {"P": [0, 0]}, "depth": [0, 5],
                    "shapes": [{"kind": "disc", "center": "P", "diameter": 8}]},
        },
        "joints": {"slide": {"type": "prismatic", "a": "frame.S", "b": "pin.P", "direction": 0,
                             "limits": {"min": -3, "max": 4, "rest": 1}}},
    })  # fmt: skip
    found = free_travel(*where(document), "slide")
    assert (found.low.value, found.high.value) == pytest.approx((-31.0, 31.0), abs=1e-5)
    assert found.low.reason == found.high.reason == "contact"
    limited = changed(document, limits_change(document, found, 1.0)).joints["slide"].limits
    assert (limited.min, limited.max, limited.rest) == pytest.approx((-30.0, 30.0, 1.0), abs=1e-5)
    with pytest.raises(DocumentError, match="no room"):
        limits_change(document, found, 40.0)


def test_free_travel_until_two_links_meet() -> None:
    """A bar about A meets the side of one that stands at B: its round end, of radius w/2 about its tip, is tangent to
    the side x = B − w/2, or it lies against that bar's round end."""
    link = {"points": {"A": [0, 0], "E": [42, 0]}, "depth": [0, 5], "pose": [0, 0, 90],
            "shapes": [{"kind": "bar", "through": ["A", "E"], "width": 10}]}  # fmt: skip
    document = read_document({
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"A": [0, 0], "B": [50, 0]}}, "one": link,
                  "two": {**link, "pose": [50, 0, 90]}},
        "joints": {"a": {"type": "revolute", "a": "frame.A", "b": "one.A"},
                   "b": {"type": "revolute", "a": "frame.B", "b": "two.A"}},
    })  # fmt: skip
    found = free_travel(*where(document), "a")
    assert found.low.reason == "contact"
    assert found.low.value == pytest.approx(math.acos(40 / 42), abs=1e-6)  # tip + 5 reaches 45
    assert found.high.reason == "contact" and found.high.value == pytest.approx(math.tau - math.acos(
        (42**2 + 50**2 - 10**2) / (2 * 42 * 50)), abs=1e-5)  # its tip against the round end about B  # fmt: skip


def test_free_travel_ends_at_a_dead_point_and_at_others_limits() -> None:
    document = slider_crank(drivers={})
    found = free_travel(*where(document), "main")
    assert found.low.reason == found.high.reason == "full turn" and found.whole == pytest.approx(2 * math.tau)
    slide = free_travel(*where(document), "slide")
    ends = math.sqrt(70**2 - 12**2), math.sqrt(130**2 - 12**2)
    assert (slide.low.value, slide.high.value) == pytest.approx(ends, abs=1e-6)
    assert slide.low.reason == slide.high.reason == "dead point"
    held = changed(document, Set(("joints", "main", "limits"), {"max": 90}))
    crank = free_travel(*where(held), "slide")
    at = math.sqrt(100**2 - (30 - 12) ** 2)  # the crank at 90°
    assert crank.low.value == pytest.approx(at, abs=1e-6) and crank.low.reason == "limit"


def test_a_rest_is_gone_back_to() -> None:
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "D": [50, 0]}},
                  "arm": {"points": {"O": [0, 0]}, "pose": [0, 0, 70]},
                  "wheel": {"points": {"D": [0, 0]}, "pose": [50, 0, 0]}},
        "joints": {"hinge": {"type": "revolute", "a": "frame.O", "b": "arm.O",
                             "limits": {"min": 0, "max": 90, "rest": 15}},
                   "axle": {"type": "revolute", "a": "frame.D", "b": "wheel.D"}},
        "drivers": {"turn": {"joint": "axle", "from": 0, "to": 90}},
    }  # fmt: skip
    motion = simulate(read_document(tree))
    assert motion.drive.held == () and motion.drive.rests == ("hinge",)
    np.testing.assert_allclose(np.degrees(motion.coordinates(np.linspace(0, 1, 5))[:, 0]), 15.0, atol=1e-9)
    tree["drivers"] = {}
    still = simulate(read_document(tree))
    assert math.degrees(still.coordinates(np.zeros(1))[0, 0]) == pytest.approx(15.0)


# -- trials ----------------------------------------------------------------------------------------------------


def test_a_log_leads_back_to_every_row() -> None:
    documents = [slider_crank()]
    check = {"measure": "coordinate", "joint": "slide", "at_most": 140}
    for change in (Set(("parameters", "throw"), "32 mm"), Set(("checks", "far"), check),
                   Set(("parts", "rod", "points", "Q"), [101, 0])):  # fmt: skip
        documents.append(changed(documents[-1], change))
    log = [{"changes": trials.difference(one.tree, two.tree)} for one, two in pairwise(documents)]
    assert [trials.said(row["changes"])[0] for row in log] == ["parameters.throw", "checks.far", "parts.rod.points.Q.0"]
    for number in (-1, 0, 1, 2):
        assert trials.follows(documents[-1], log, number)
        back = changed(documents[-1], *trials.undoing(log, number))
        assert json.loads(dumps(back)) == json.loads(dumps(documents[number + 1]))
    other = changed(documents[-1], Set(("parts", "rod", "points", "Q"), [99, 0]))
    assert not trials.follows(other, log, 1)
    told = [{**row, "after": {"stroke": [f"{number} mm", "pass"]}} for number, row in enumerate(log)]
    assert trials.compared(told, 1, 2) == [("parts.rod.points.Q.0", "rod", "101"),
                                           ("check stroke", "1 mm pass", "2 mm pass")]  # fmt: skip


# -- the command line ------------------------------------------------------------------------------------------


def test_the_commands_tell_the_same_numbers(tmp_path: Any, capsys: Any) -> None:
    path = tmp_path / "crank.anakinema"
    given = {"throw": {"value": "30 mm", "tolerance": 0.1}, "rod": "100 mm", "offset": "12 mm"}
    path.write_bytes(dumps(slider_crank(parameters=given)))
    out = tmp_path / "out.json"
    assert main(["tune", str(path), "throw", "checks.stroke", "--want", "70 mm", "--json", str(out)]) == 0
    assert stroke(json.loads(out.read_text())["solutions"][0], 100, 12) == pytest.approx(70.0, abs=1e-6)
    assert "throw = 34." in capsys.readouterr().out
    assert main(["tune", str(path), "throw", "checks.stroke", "--want", "7 m"]) == 1
    assert "nearest that can be had" in capsys.readouterr().out
    table = tmp_path / "out.csv"
    assert main(["sweep", str(path), "throw=20:40:3", "--csv", str(table)]) == 0
    assert [line.split(",")[0] for line in table.read_text().splitlines()] == ["throw", "20.0", "30.0", "40.0"]
    assert main(["tolerances", str(path), "--builds", "50", "--json", str(out)]) == 0
    assert json.loads(out.read_text())["checks"]["stroke"]["passing"] == 1.0
    assert main(["trials", str(path)]) == 0
    capsys.readouterr()
    for wrong, message in (("tune FILE throw checks.stroke --want 5deg", "--want: a length is wanted"),
                        ("sweep FILE throw=1:2", "PARAMETER=A:B:N"),
                        ("sweep FILE throw=20:40:3 --jobs 0", "--jobs: '0' is not a whole number from 1 to 1,024"),
                        ("sweep FILE throw=20:40:3 --csv FILE", "is the document itself")):  # fmt: skip
        try:
            code: object = main([str(path) if word == "FILE" else word for word in wrong.split()])
        except SystemExit as ended:
            code = ended.code
        assert code == 2 and message in capsys.readouterr().err


def test_many_builds_come_in_the_order_that_was_asked() -> None:
    document = slider_crank()
    numbers = [{"throw": f"{20 + k} mm"} for k in range(7)]
    found = many_built(document, numbers, ["joints.slide.travel"], jobs=2)
    assert [build.values["joints.slide.travel"] for build in found] == pytest.approx(
        [stroke(20 + k, 100, 12) for k in range(7)], abs=1e-9)  # fmt: skip


def test_what_the_motion_of_another_document_does_not_know_is_told() -> None:
    """A window may ask of the motion that it has, while its document has changed."""
    motion = simulate(slider_crank())
    here = motion.positions(np.zeros(1))[0]
    for ask, place in (
        (lambda: Builds(motion.document, motion=motion).motion_with({"thorw": 3}), "parameters.thorw"),
        (lambda: way_to(motion, here, Position("open", {"gone": 1.0}, {})), "positions.open"),
        (lambda: way_to(motion, here, Position("open", {}, {"gone": 1.0})), "positions.open"),
        (lambda: to_and_fro(motion, here, "gone"), "joints.gone"),
        (lambda: free_travel(motion, here, "gone"), "joints.gone"),
    ):
        with pytest.raises(DocumentError) as message:
            ask()
        assert message.value.faults[0].place == place


def test_a_worker_that_somebody_ends_is_done_without(monkeypatch: pytest.MonkeyPatch) -> None:
    """Its pieces are built by who asked; the table is the same."""
    document = slider_crank()
    numbers = [{"throw": f"{20 + k / 10} mm"} for k in range(60)]
    alone = many_built(document, numbers, jobs=1)
    here, piece = os.getpid(), many._piece

    def ending(*arguments: Any) -> Any:
        if os.getpid() != here and arguments[0] % 3 == 0:
            os.kill(os.getpid(), signal.SIGKILL)
        return piece(*arguments)

    monkeypatch.setattr(many, "_piece", ending)
    monkeypatch.setattr(many.threading, "active_count", lambda: 1)
    assert [build.found for build in many_built(document, numbers, jobs=3)] == [build.found for build in alone]
