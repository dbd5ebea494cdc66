"""What next: advice that is so, and says how."""

from typing import Any

import pytest

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.findings import analyse
from anakinema.operations.driving import drive
from anakinema.operations.following import rounded
from anakinema.operations.studying import bounds_around

REVOLUTE = {"type": "revolute"}


def truss(**joints: Any) -> dict[str, Any]:
    """A triangle on two feet: three pins lock two bars; more joints as given."""
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "D": [80, 0]}},
                  "one": {"points": {"A": [0, 0], "B": [50, 0]}, "pose": [0, 0, 36.87]},
                  "two": {"points": {"A": [0, 0], "B": [50, 0]}, "pose": [80, 0, 143.13]}},
        "joints": {"left": {**REVOLUTE, "a": "frame.O", "b": "one.A"},
                   "right": {**REVOLUTE, "a": "frame.D", "b": "two.A"},
                   "top": {**REVOLUTE, "a": "one.B", "b": "two.B"}, **joints},
    }  # fmt: skip


def test_a_locked_mechanism_says_which_joints_lock_it_and_what_would_free_it():
    found = analyse(read_document(truss()))
    assert found.motion.mobility.dof == 0
    (advice,) = [each for each in found.advice if "Nothing can move" in each.text]
    assert advice.place == "joints.top"
    assert all(f"'{name}'" in advice.text for name in ("left", "right", "top")) and "pin in a slot" in advice.text
    freed = changed(found.document, Set(("joints", "top", "suspended"), True))
    assert analyse(freed).motion.mobility.dof == 2


def test_a_redundant_joint_is_named_with_those_that_make_it_so():
    again = {**REVOLUTE, "a": "one.B", "b": "two.B"}
    found = analyse(read_document(truss(again=again))).motion.mobility
    assert found.redundant == ("again",) and "top" in found.because["again"]


@pytest.mark.parametrize(("at", "limits", "to"), [
    (0.0, {"min": -10, "max": 40}, 40), (30.0, {"min": -10, "max": 40}, -10), (40.0, {"min": -10, "max": 40}, -10),
    (0.0, {}, 20), (0.0, {"max": 5}, 5), (5.0, {"max": 5}, -15), (5.0, {"min": 5}, 25),
])  # fmt: skip
def test_a_joint_is_driven_to_the_other_limit(at, limits, to):
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                  "ram": {"points": {"Q": [0, 0]}, "pose": [at, 0, 0]}},
        "joints": {"way": {"type": "prismatic", "a": "frame.O", "b": "ram.Q", "direction": 0, "limits": limits}},
    }  # fmt: skip
    (change,) = drive(read_document(tree), "way", at, 20.0).changes
    assert change.value["to"] == to


@pytest.mark.parametrize(("driver", "word"), [({"from": -20, "to": 30}, "from"), ({"from": 0, "to": 60}, "to")])
def test_a_stop_says_which_end_of_the_way_lies_outside(driver: dict[str, float], word: str):
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "arm": {"points": {"O": [0, 0]}}},
        "joints": {"swing": {**REVOLUTE, "a": "frame.O", "b": "arm.O", "limits": {"min": -10, "max": 40}}},
        "drivers": {"turn": {"joint": "swing", "steps": 10, **driver}},
    }  # fmt: skip
    stop = analyse(read_document(tree)).motion.stop
    assert stop is not None and f"'{word}' of driver 'turn'" in stop.text and "lies outside" in stop.text


@pytest.mark.parametrize(("value", "down", "bound"), [
    (80.3147, True, 80.314), (80.3147, False, 80.315), (0.30004, False, 0.3001), (-3.14159, True, -3.142),
    (28.0, True, 28), (0.00012344, True, 0.0001234),
])  # fmt: skip
def test_a_proposed_bound_holds_at_once(value: float, down: bool, bound: float):
    assert rounded(value, down) == pytest.approx(bound, rel=1e-12)
    assert rounded(value, down) <= value if down else rounded(value, down) >= value


def test_both_bounds_from_one_text():
    place = ("checks", "stroke", "at_most")
    assert [(c.place[-1], c.value) for c in bounds_around(place, "80 ± 0.5") or []] == [
        ("at_least", "80 - (0.5)"), ("at_most", "80 + (0.5)")]  # fmt: skip
    assert bounds_around(place, "80") is None and bounds_around(("joints", "x", "ratio"), "1 ± 2") is None


def test_a_value_and_its_bound_are_told_apart():
    tree = truss()
    del tree["joints"]["top"], tree["joints"]["right"], tree["parts"]["two"]
    tree["drivers"] = {"turn": {"joint": "left", "from": 0, "to": 40, "law": "345"}}
    tree["checks"] = {"far": {"measure": "travel", "joint": "left", "at_least": 40.00001}}
    texts = [each.text for each in analyse(read_document(tree)).advice]
    assert "Travel of left is 40°, wanted ≥ 40.00001°" in texts


def test_a_slider_crank_of_equal_links_says_which_way_it_took():
    """At 90° both links lie on each other: the rod may stay with the crank, or the slider may go on."""
    tree = {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                  "crank": {"points": {"O": [0, 0], "P": [40, 0]}, "pose": [0, 0, 90]},
                  "rod": {"points": {"P": [0, 0], "Q": [40, 0]}, "pose": [0, 40, -90]},
                  "ram": {"points": {"Q": [0, 0]}}},
        "joints": {"main": {**REVOLUTE, "a": "frame.O", "b": "crank.O"},
                   "big": {**REVOLUTE, "a": "crank.P", "b": "rod.P"},
                   "small": {**REVOLUTE, "a": "rod.Q", "b": "ram.Q"},
                   "way": {"type": "prismatic", "a": "frame.O", "b": "ram.Q", "direction": 0}},
        "drivers": {"turn": {"joint": "main", "from": 90, "to": 150, "law": "345", "steps": 12}},
    }  # fmt: skip
    found = analyse(read_document(tree))
    assert found.motion.stop is None
    assert any("could go on in two ways" in each.text and "'rod'" in each.text for each in found.advice)
    tree["drivers"]["turn"]["from"] = 80
    assert not any("two ways" in each.text for each in analyse(read_document(tree)).advice)


def test_chance_and_the_worst_case_are_explained_where_they_disagree():
    from anakinema.studies.reports import tolerances_text
    from anakinema.studies.tolerances import tolerances

    tree = truss()
    del tree["joints"]["top"], tree["joints"]["right"], tree["parts"]["two"]
    tree["parameters"] = {name: {"value": "10 deg", "tolerance": "1 deg"} for name in "abcdef"}
    tree["drivers"] = {"turn": {"joint": "left", "from": 0, "to": "a + b + c + d + e + f", "law": "345"}}
    tree["checks"] = {"far": {"measure": "travel", "joint": "left", "at_least": 54.5}}
    found = tolerances(read_document(tree), 50, 1, False, 1)
    assert found.passing == 1.0 and not found.spreads[0].worst_passes
    assert "which chance hardly ever builds" in tolerances_text(found)
