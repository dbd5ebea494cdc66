"""Depths that touch, and joined parts that fill the same depth."""

from typing import Any

import pytest

from anakinema.document import changed, read_document
from anakinema.findings import Findings, analyse
from anakinema.formats.project import EXAMPLES, example
from anakinema.formats.results import results


def stacked(first: list[Any], second: list[Any], unit: str = "mm", size: float = 1.0, lift: Any = 0) -> Findings:
    """Two discs that lie half over each other, fixed and driven, in two depths."""
    disc = {"kind": "disc", "center": "O", "diameter": 40 * size}
    return analyse(read_document({
        "anakinema": 1,
        "units": {"length": unit},
        "parts": {
            "one": {"fixed": True, "points": {"O": [0, 0]}, "shapes": [disc], "depth": first},
            "two": {"points": {"O": [0, 0], "C": [15 * size, 0]}, "shapes": [disc | {"center": "C"}], "depth": second},
            "copy": {"of": "two", "pose": [-60 * size, 0, 0], "lift": lift},
        },
        "joints": {},
    }))  # fmt: skip


@pytest.mark.parametrize(("first", "second", "overlap"), [
    ([0, "0.1+0.2"], [0.3, 1], False), ([0, 0.3], ["0.1*3", 1], False), ([0, 1], [1 - 5e-7, 2], False),
    ([0, 1], [1 - 1e-3, 2], True), ([0, 1], [1 - 2e-6, 2], True), ([0, "0.1+0.2+0.1"], ["0.4 mm", 1], False),
])  # fmt: skip
def test_depths_that_only_rounding_makes_overlap_touch(first, second, overlap):
    found = [each for each in stacked(first, second).approaches if "one" in each.parts and "two" in each.parts]
    assert bool(found) is overlap
    assert not overlap or (found[0].distance or 0.0) < -1


def test_a_micrometre_is_told_in_metres_too():
    def pairs(found: Findings) -> list[tuple[str, str]]:
        return [each.parts for each in found.approaches if "one" in each.parts]

    assert pairs(stacked([0, 0.01], [0.01 - 1e-6, 0.02], "m", 1e-3))
    assert not pairs(stacked([0, "0.001+0.002"], [0.003, 0.004], "m", 1e-3))


def lever(base: list[Any], arm: list[Any], depth: tuple[Any, Any], joint: dict[str, Any]) -> Findings:
    return analyse(read_document({
        "anakinema": 1,
        "parts": {"base": {"fixed": True, "points": {"O": [0, 0]}, "shapes": base, "depth": depth[0]},
                  "lever": {"points": {"O": [0, 0], "P": [50, 0]}, "shapes": arm, "depth": depth[1]}},
        "joints": {"pin": {"a": "base.O", "b": "lever.O", **joint}},
        "drivers": {"turn": {"joint": "pin", "from": 0, "to": 20}},
    }))  # fmt: skip


PLATE = {"kind": "rectangle", "center": [0, 0], "size": [60, 60]}
HOLE = {"kind": "disc", "center": "O", "diameter": 12, "cut": True}
BAR = {"kind": "bar", "through": ["O", "P"], "width": 12}
PIN = {"kind": "disc", "center": "O", "diameter": 12}
BLOCK = {"kind": "rectangle", "center": "O", "size": [20, 10]}
TURNS, SLIDES = {"type": "revolute"}, {"type": "prismatic", "direction": 0}
CASES = {
    "a lever on its base": ([PLATE], [BAR], ([0, 5], [0, 5]), TURNS, True),
    "partly in its base": ([PLATE], [BAR], ([0, 5], [4, 9]), TURNS, True),
    "swallowed by its base": ([PLATE], [BAR], ([0, 5], [1, 4]), TURNS, True),
    "in front": ([PLATE], [BAR], ([0, 5], [5, 9]), TURNS, False),
    "a pin in its hole": ([PLATE, HOLE], [PIN], ([0, 5], [0, 5]), TURNS, False),
    "a pin, its hole not drawn": ([PLATE], [{**PIN, "depth": [0, 9]}, {**BAR, "depth": [5, 9]}], ([0, 5], [5, 9]),
                                  TURNS, False),
    "a block in the plate's depth": ([PLATE], [BLOCK], ([0, 5], [0, 5]), SLIDES, True),
    "a block within its guide": ([PLATE], [BLOCK], ([0, 5], [1, 4]), SLIDES, False),
    "a skeleton": ([], [BAR], ([0, 5], [0, 5]), TURNS, False),
}


@pytest.mark.parametrize("case", CASES)
def test_joined_parts_in_the_same_depth_are_told_and_mended(case: str):
    base, arm, depth, joint, together = CASES[case]
    found = lever(base, arm, depth, joint)
    told = [{"parts": ["base", "lever"], "joint": "pin"}] if together else []
    assert results(found)["same_depth"] == told
    assert [gap.joint for gap in found.gaps] == ["pin"] * together
    advice = [each for each in found.advice if "same depth" in each.text]
    assert [each.text for each in advice] == ["lever and base fill the same depth: put lever in front"] * together
    for each in advice:
        assert not analyse(changed(found.document, *each.mend)).same_depth


@pytest.mark.parametrize("name", EXAMPLES)
def test_no_example_has_joined_parts_in_one_depth(name: str):
    assert not analyse(example(name)[0]).same_depth
