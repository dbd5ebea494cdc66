"""Checks over a part of the motion, bounds that hang on other checks, named measures and expressions of them, jerk and
the signed mechanical advantage: against closed forms."""

import math
from typing import Any

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.document.changes import Rename, changed
from anakinema.errors import DocumentError
from anakinema.findings import Findings, analyse
from anakinema.findings.checks import Outcome
from anakinema.formats.results import results
from mechanisms import slider_crank, turn

R, W = 30.0, 2 * math.pi
ROLLER, POST, AWAY = 6.0, 5.0, 45.0
"""Radii of the roller on the crank's pin and of a post at some distance from its axis."""


def crank(checks: dict[str, Any], law: str = "cycloidal", **more: Any) -> Findings:
    """A crank that turns once in a second, evenly, its pin with a roller that passes a post; a slide that goes out in
    0.3 s, waits, and comes back."""
    tree = {
        "anakinema": 1,
        "parameters": {"lift": "20 mm"},
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "S": [0, -90]}, "depth": [0, 4],
                      "shapes": [{"kind": "disc", "center": [AWAY, 0], "diameter": 2 * POST}]},
            "crank": {"points": {"O": [0, 0], "P": [R, 0]}, "depth": [0, 4],
                      "shapes": [{"kind": "disc", "center": "P", "diameter": 2 * ROLLER}]},
            "block": {"points": {"Q": [0, 0]}, "pose": [0, -90, 0]},
        },
        "joints": {
            "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
            "slide": {"type": "prismatic", "a": "frame.S", "b": "block.Q", "direction": 0},
        },
        "programs": {"work": {"segments": [{"over": "0.3 s", "to": "lift", "law": law}, {"over": "0.4 s"},
                                           {"over": "0.3 s", "to": 0, "law": "345"}]}},
        "drivers": {"turn": {"joint": "main", "from": 0, "to": 360, "duration": "1 s", "steps": 90},
                    "feed": {"joint": "slide", "from": 0, "program": "work"}},
        "traces": {"pin": {"point": "crank.P"}},
        "checks": checks,
    }  # fmt: skip
    return analyse(read_document(tree | more))


def gap(angle: float) -> float:
    """Between the roller and the post where the crank stands so."""
    return abs(R * complex(math.cos(angle), math.sin(angle)) - AWAY) - ROLLER - POST


X = {"measure": "place", "point": "crank.P"}
OVER = {
    "by-angle": ({**X, "from": 30, "until": 60, "at_most": 99}, R * math.cos(math.radians(30)), 1 / 12),
    "from-there": ({**X, "from": 200, "at_least": -99}, R * math.cos(math.radians(200)), 200 / 360),
    "until-there": ({**X, "until": 100, "at_least": -99}, R * math.cos(math.radians(100)), 100 / 360),
    "in-time": ({**X, "from": "0.25 s", "until": "0.4 s", "at_most": 99}, 0.0, 0.25),
    "half-way": ({"measure": "travel", "joint": "slide", "until": "0.15 s", "at_least": 1}, 10.0, 0.15),
    "quarter": ({"measure": "path_length", "trace": "pin", "from": 0, "until": 90, "at_least": 1}, R * math.pi / 2,
                0.25),
    # The slide is at 15 to 20 from where its program has gone on so far, on both ways: slowest where it waits.
    "twice": ({"measure": "velocity", "joint": "slide", "by": "feed", "from": "lift/2", "at_most": 999},
              2 * 20 / 0.3, 0.15),
    "clear": ({"measure": "clearance", "parts": ["crank", "frame"], "from": 60, "until": 300, "at_least": 1},
              gap(math.radians(60)), 1 / 6),
    "later": ({"measure": "clearance", "parts": ["crank", "frame"], "from": "0.8 s", "until": "0.9 s", "at_least": 1},
              gap(math.radians(324)), 0.9),
}  # fmt: skip


def test_a_check_over_a_part_of_the_motion_is_judged_there_alone() -> None:
    found = crank({name: entry for name, (entry, _, _) in OVER.items()})
    for name, (_, value, t) in OVER.items():
        verdict = found.verdicts[name]
        assert verdict.value == pytest.approx(value, abs=2e-6), name
        assert verdict.t == pytest.approx(t, abs=2e-6), name
        assert verdict.outcome is Outcome.PASS, (name, verdict.reason)


def test_where_a_driver_never_is_nothing_is_judged_and_that_is_said() -> None:
    found = crank({"beyond": {**X, "from": 400, "until": 500, "at_most": 99}}).verdicts["beyond"]
    assert found.outcome is Outcome.NOT_JUDGED
    assert found.reason == "'turn' from 400° until 500° is never passed"


@pytest.mark.parametrize(
    ("entry", "place", "words"),
    [
        ({**X, "from": 60, "until": 30}, "checks.it", "holds nothing"),
        ({**X, "from": 60, "until": "1 s"}, "checks.it", "write both ends alike"),
        ({**X, "from": 60, "at": 30}, "checks.it", "has both 'at' and a span"),
        ({**X, "by": "trun", "from": 60}, "checks.it.by", "did you mean 'turn'"),
        ({**X, "by": "turn"}, "checks.it.by", "say 'from', 'until' or both"),
        ({"measure": "reversals", "joint": "slide", "from": 60}, "checks.it", "is judged all along"),
        ({**X, "at_most": "it + 1 mm"}, "checks.it", "waits for itself"),
        ({**X, "at_most": "slow * 2"}, "checks.it.at_most", "a length is wanted here, this is a linear rate"),
        ({"measure": "measured", "of": "sum"}, "measures.sum.expression", "can't add a length and an angle"),
    ],
)
def test_what_makes_no_sense_of_a_part_or_of_others_is_told(entry: dict[str, Any], place: str, words: str) -> None:
    checks = {"it": {"at_most": 99, **entry}, "slow": {"measure": "velocity", "joint": "slide", "at_most": 999}}
    measures = {"x": dict(X), "angle": {"measure": "coordinate", "joint": "main"}}
    if entry["measure"] == "measured":
        measures["sum"] = {"measure": "expression", "expression": "x + angle"}
    with pytest.raises(DocumentError) as error:
        crank(checks, measures=measures)
    fault = error.value.faults[0]
    assert fault.place == place and words in fault.text


def test_a_bound_may_hang_on_what_others_find_and_follows_their_names() -> None:
    """The right end of the pin's way must lie beyond twice the stroke by no more than lift: 30 ≤ 20 + 20."""
    stroke = {"measure": "travel", "joint": "slide", "at_least": 1}
    checks = {"right": {**X, "at_most": "stroke + lift"}, "stroke": stroke, "left": {**X, "at_least": "-right + 5 mm"}}
    found = crank(checks)
    right = found.verdicts["right"]
    assert (right.check.at_most, right.margin, right.passed) == pytest.approx((40.0, 10.0, True))
    assert found.verdicts["left"].outcome is Outcome.FAIL  # it goes to −30, and −25 is wanted
    assert results(found)["checks"]["left"]["at_least"] == pytest.approx(-25.0)
    renamed = changed(found.document, Rename(("checks", "stroke"), "way"))
    assert renamed.tree["checks"]["right"]["at_most"] == "way + lift"


def test_a_bound_that_hangs_on_what_has_no_value_is_not_judged() -> None:
    found = crank({"a": {"measure": "time_ratio", "joint": "main", "at_least": 1},
                   "b": {"measure": "reversals", "joint": "main", "at_most": "a"}}).verdicts["b"]  # fmt: skip
    assert found.outcome is Outcome.NOT_JUDGED and "hangs on 'a'" in found.reason


def test_any_measure_has_a_name_and_expressions_of_them_are_taken_moment_by_moment() -> None:
    measures = {
        "x": dict(X), "y": {**X, "axis": "y"}, "stroke": {"measure": "travel", "joint": "slide"},
        "radius": {"measure": "expression", "expression": "sqrt(x*x + y*y)"},
        "share": {"measure": "expression", "expression": "x / stroke + radius / (30 mm)"},
        "gap": {"measure": "clearance", "parts": ["crank", "frame"]},
    }  # fmt: skip
    found = crank({"kept": {"measure": "measured", "of": "share", "at_least": -1, "at_most": 2.6},
                   "free": {"measure": "measured", "of": "gap", "at_least": 1}}, measures=measures)  # fmt: skip
    told = results(found)["measures"]
    assert told["radius"] == pytest.approx({"min": R, "max": R})
    assert told["share"] == pytest.approx({"min": 1 - R / 20, "max": 1 + R / 20})
    assert told["stroke"] == pytest.approx({"value": 20.0})
    assert told["gap"]["value"] == pytest.approx(AWAY - R - ROLLER - POST, abs=1e-6)
    assert found.verdicts["kept"].value == pytest.approx(1 + R / 20)
    assert found.verdicts["free"].passed
    renamed = changed(found.document, Rename(("measures", "x"), "across"))
    assert renamed.tree["measures"]["radius"]["expression"] == "sqrt(across*across + y*y)"


JERKS = {
    # Peak jerks of the laws, in units of h/T³: H. A. Rothbart (ed.), "Cam Design Handbook" (McGraw-Hill, 2004), table
    # of the basic curves, from memory: cycloidal 4π², 3-4-5 polynomial 60; both start with it.
    "cycloidal": 4 * math.pi**2 * 20 / 0.3**3,
    "345": 60 * 20 / 0.3**3,
}


@pytest.mark.parametrize("law", JERKS)
def test_jerk_is_that_of_the_law(law: str) -> None:
    checks = {"slide": {"measure": "jerk", "joint": "slide", "until": "0.3 s", "at_most": 1e6},
              "pin": {"measure": "point_jerk", "point": "crank.P", "at_most": 1e6},
              "along": {"measure": "jerk_along", "point": "crank.P", "axis": "y", "at_most": 1e6}}  # fmt: skip
    found = crank(checks, law).verdicts
    assert found["slide"].value == pytest.approx(JERKS[law], rel=1e-6)
    assert found["pin"].value == pytest.approx(R * W**3, rel=1e-7)
    assert found["along"].value == pytest.approx(R * W**3, rel=1e-7)


def test_jerk_is_infinite_where_the_acceleration_jumps() -> None:
    found = crank({"it": {"measure": "jerk", "joint": "slide", "at_most": 1e9}}, "harmonic").verdicts["it"]
    assert found.value == math.inf and found.reason == "infinite: the acceleration jumps there"


def test_signed_mechanical_advantage_tells_which_way_and_of_which_driver() -> None:
    """Of a slider-crank in line, x = r cos θ + √(l² − r² sin² θ), F/M = 1/(dx/dθ): the ram comes back as the crank goes
    on to 180°, and goes out again beyond."""
    r, rod = 14.0, 40.0
    theta = np.radians(np.linspace(10, 170, 16001))
    way = -r * np.sin(theta) - r**2 * np.sin(theta) * np.cos(theta) / np.sqrt(rod**2 - (r * np.sin(theta)) ** 2)
    tree = slider_crank(r, rod, 0.0) | {"drivers": turn(10, 170)}
    signed = {"measure": "mechanical_advantage", "joint": "ram", "signed": True}
    tree["checks"] = {
        "all": {**signed, "at_most": 0},
        "there": {**signed, "at": 90, "at_most": 0},
        "size": {"measure": "mechanical_advantage", "joint": "ram", "driver": "turn", "from": 60, "at_least": 0},
    }
    found = analyse(read_document(tree)).verdicts
    assert found["all"].value == pytest.approx(1 / way.min(), rel=1e-6)
    assert found["there"].value == pytest.approx(-1 / r)
    assert found["size"].value == pytest.approx(1 / np.abs(way[theta >= np.radians(60)]).max(), rel=1e-6)
    tree["drivers"] = turn(170, 190)
    beyond = analyse(read_document(tree)).verdicts["all"]
    assert beyond.value == math.inf and "stands still" in beyond.reason


def test_a_distance_has_its_sign_along_an_axis_and_from_a_line() -> None:
    measures = {
        "across": {"measure": "distance", "a": "frame.O", "b": "crank.P", "along": "x"},
        "back": {"measure": "distance", "a": "crank.P", "b": "frame.O", "along": "y"},
        "aside": {"measure": "distance", "a": ["frame.O", "frame.S"], "b": "crank.P", "signed": True},
        "plain": {"measure": "distance", "a": ["frame.O", "frame.S"], "b": "crank.P"},
    }
    told = results(crank({}, measures=measures))["measures"]
    for name in ("across", "back", "aside"):
        assert told[name] == pytest.approx({"min": -R, "max": R}), name
    assert told["plain"] == pytest.approx({"min": 0.0, "max": R}, abs=1e-6)
    first = crank({"left": {"measure": "measured", "of": "aside", "at": 0, "at_least": 0}}, measures=measures)
    assert first.verdicts["left"].value == pytest.approx(R)  # the line runs down: what lies at its left is at the right


def test_a_span_and_an_advantage_follow_the_name_of_their_driver() -> None:
    checks = {"twice": dict(OVER["twice"][0]), "gain": {"measure": "mechanical_advantage", "joint": "slide",
                                                         "driver": "feed", "at_least": 0}}  # fmt: skip
    renamed = changed(crank(checks).document, Rename(("drivers", "feed"), "advance"))
    assert (renamed.tree["checks"]["twice"]["by"], renamed.tree["checks"]["gain"]["driver"]) == ("advance", "advance")


def test_the_length_of_a_path_of_very_many_turns_is_known_in_time() -> None:
    """Rounding alone keeps halves from agreeing with the whole there: nothing is halved for ever."""
    found = crank({"way": {"measure": "path_length", "trace": "pin", "at_least": 1}},
                  drivers={"turn": {"joint": "main", "from": 0, "to": 1_080_000, "duration": "1 s"},
                           "feed": {"joint": "slide", "from": 0, "to": 1, "duration": "1 s"}})  # fmt: skip
    assert found.verdicts["way"].value == pytest.approx(R * 2 * math.pi * 3_000, rel=1e-6)
    assert found.paths["pin"].length == found.verdicts["way"].value
