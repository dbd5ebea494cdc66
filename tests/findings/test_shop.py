"""Checks without being asked, one by one; cautions against closed forms."""

import json
from typing import Any

import pytest

from anakinema.cli import main
from anakinema.document import read_document
from anakinema.document.changes import Set, changed
from anakinema.findings import Findings, analyse
from anakinema.formats.project import dumps, example

Tree = dict[str, Any]


def pinned(**given: Any) -> Tree:
    """Two bars pinned by an M6 screw of 25 with washers and a lock nut, wide enough for it."""
    hole = {"kind": "disc", "center": "P", "diameter": 6.6, "cut": True}
    bar = {"kind": "bar", "through": ["P", "Q"], "width": 20}
    tree = {
        "anakinema": 1,
        "parts": {
            "back": {"fixed": True, "points": {"P": [0, 0], "Q": [50, 0]}, "shapes": [bar, hole], "depth": [0, 5]},
            "front": {"points": {"P": [0, 0], "Q": [40, 0]}, "pose": [0, 0, 40], "depth": [5, 10],
                      "shapes": [bar, hole]},
            "washer": hardware("ISO 7089", front_of="front"),
            "screw": hardware("ISO 4762", front_of="washer", to="nut"),
            "washer2": hardware("ISO 7089", behind="back"),
            "nut": hardware("ISO 10511", behind="washer2"),
        },
        "joints": {"pin": {"type": "revolute", "a": "back.P", "b": "front.P"}},
        "drivers": {"turn": {"joint": "pin", "from": 40, "to": 80, "steps": 4}},
    }  # fmt: skip
    return with_(tree, given)


def hardware(standard: str, size: str = "M6", **more: Any) -> Tree:
    return {"hardware": {"standard": standard, "size": size, "at": "front.P", "through": ["back.P"], **more}}


def with_(tree: Tree, given: Tree) -> Tree:
    for name, part in given.items():
        if part is None:
            tree["parts"].pop(name, None)
        elif name in tree["parts"]:
            tree["parts"][name] = {**tree["parts"][name], **part}
        else:
            tree["parts"][name] = part
    return tree


def found(tree: Tree) -> dict[str, str]:
    return {one.name: one.text for one in analyse(read_document(tree)).shop if not one.waived}


def bar(width: float, diameter: float, *more: Tree) -> Tree:
    return {"shapes": [{"kind": "bar", "through": ["P", "Q"], "width": width},
                       {"kind": "disc", "center": "P", "diameter": diameter, "cut": True}, *more]}  # fmt: skip


def test_a_sound_stack_is_left_in_peace() -> None:
    assert found(pinned()) == {}


CASES: dict[str, tuple[Tree, str, str]] = {
    "no nut": (pinned(nut=None, washer2=None, screw=hardware("ISO 4762", front_of="washer", length=20)), "no nut",
               "no thread"),
    "too short": (pinned(screw=hardware("ISO 4762", front_of="washer", to="nut", length=20)), "too short",
                  "stands only 0.8 mm proud"),
    "shorter still": (pinned(screw=hardware("ISO 4762", front_of="washer", to="nut", length=16)), "too short",
                      "ends 3.2 mm before"),
    "too long": (pinned(screw=hardware("ISO 4762", front_of="washer", to="nut", length=40)), "too long", "proud"),
    "no such length": (pinned(screw=hardware("ISO 4762", front_of="washer", to="nut", length=23)), "no such length",
                       "nearest is 25"),
    "another size": (pinned(nut=hardware("ISO 10511", "M8", behind="washer2")), "nut of another size", "M8"),
    "turned loose": (pinned(nut=hardware("ISO 4032", behind="washer2")), "turned loose", "ISO 10511"),
    "tight hole": (pinned(front=bar(20, 6.2)), "clearance hole", "tighter than fine"),
    "wide hole": (pinned(front=bar(24, 8)), "clearance hole", "wider than coarse"),
    "no hole": (pinned(front={"shapes": [{"kind": "bar", "through": ["P", "Q"], "width": 20}]}), "no hole", "6.6 mm"),
    "near an edge": (pinned(front=bar(15, 6.6)), "edge distance", "7.5 mm"),
    "near a hole": (pinned(front=bar(20, 6.6, {"kind": "disc", "center": [11, 0], "diameter": 6, "cut": True})),
                    "web between holes", "4.7 mm"),
    "thin wall": (pinned(front=bar(20, 6.6, {"kind": "disc", "center": [30, 6], "diameter": 6, "cut": True})),
                  "thin wall", "1 mm"),
    "no thickness": (pinned(stray={"points": {"A": [0, 0]}, "pose": [90, 90, 0],
                                   "shapes": [{"kind": "disc", "center": "A", "diameter": 9}]}),
                     "no thickness", "1 mm"),
    "no room": (pinned(tube={"hardware": {"standard": "spacer", "size": "6x10", "at": "back.P", "through": ["front.P"],
                                          "front_of": "back", "to": "front"}}), "no longer fits", "no room"),
    "pin let go": (pinned(screw=None, nut=None, washer=None, washer2=None,
                          pin=hardware("ISO 2341", "6", front_of="front", to="back")), "not held", "one end"),
    "race": (pinned(front=bar(40, 16), back=bar(40, 5), screw=None, nut=None, washer=None, washer2=None,
                    bearing=hardware("ISO 15", "625", front_of="front")), "race on a face", "'back'"),
    "bore": (pinned(front=bar(40, 16), screw=None, nut=None, washer=None, washer2=None,
                    bearing=hardware("ISO 15", "625", front_of="front"),
                    pin=hardware("ISO 2338", "6", front_of="front", to="back")), "bore and shaft", "5 mm"),
    "seat": (pinned(front=bar(40, 15), screw=None, nut=None, washer=None, washer2=None,
                    bearing=hardware("ISO 15", "625", front_of="front")), "seat of a bearing", "16 mm across"),
    "off one axis": (pinned(front={"points": {"P": [0, 0], "Q": [40, 0], "R": [0.5, 0]}},
                            nut=hardware("ISO 10511", behind="washer2") | {"hardware": {
                                "standard": "ISO 10511", "size": "M6", "at": "front.R", "through": ["back.P"],
                                "behind": "washer2"}}), "holes not in line", "0.5 mm off"),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_what_is_wrong_is_found_and_told_with_its_numbers(case: str) -> None:
    tree, name, words = CASES[case]
    told = found(tree)
    assert name in told and words in told[name], told


def test_a_slide_wants_one_and_a_half_widths_of_guide() -> None:
    """A block 20 long and 10 wide in a guide of 30 that it leaves by half: 10 of the 15 wanted."""
    tree = {"anakinema": 1, "parts": {
        "frame": {"fixed": True, "points": {"O": [0, 0]}, "depth": [0, 5], "shapes": [
            {"kind": "rectangle", "center": "O", "size": [30, 20]},
            {"kind": "rectangle", "center": "O", "size": [30, 10], "cut": True}]},
        "block": {"points": {"B": [0, 0]}, "depth": [0, 5],
                  "shapes": [{"kind": "rectangle", "center": "B", "size": [20, 10]}]}},
        "joints": {"way": {"type": "prismatic", "a": "frame.O", "b": "block.B", "direction": 0}},
        "drivers": {"go": {"joint": "way", "from": 0, "to": 15, "steps": 10}}}  # fmt: skip
    assert "lies only 10 mm" in found(tree)["short guide"]
    tree["drivers"]["go"]["to"] = 9
    assert "short guide" not in found(tree)


def test_a_head_in_the_way_of_what_passes_is_told_with_when() -> None:
    tree = pinned(passing={"points": {"O": [0, 0], "E": [60, 0]}, "pose": [0, -60, 45], "depth": [10, 14],
                           "shapes": [{"kind": "bar", "through": ["O", "E"], "width": 6}]},
                  back={"points": {"P": [0, 0], "Q": [50, 0], "S": [0, -60]}})  # fmt: skip
    tree["joints"]["sweep"] = {"type": "revolute", "a": "back.S", "b": "passing.O"}
    tree["drivers"]["swing"] = {"joint": "sweep", "from": 45, "to": 135, "steps": 9}
    findings = analyse(read_document(tree))
    told = [one for one in findings.shop if one.name == "in the way"]
    assert {one.of for one in told} == {("washer", "passing"), ("screw", "passing")}
    assert all(one.t is not None and 0 < one.t < 1 for one in told)
    assert "put it on the other side" in told[0].text
    assert findings.advice[0].text == told[0].text or told[0].text in {one.text for one in findings.advice}


def test_what_mends_it_mends_it_and_what_is_waived_is_kept(tmp_path: Any, capsys: Any) -> None:
    bare = pinned(front={"shapes": [{"kind": "bar", "through": ["P", "Q"], "width": 20}]})
    document = read_document(bare)
    (one,) = [each for each in analyse(document).shop if each.name == "no hole"]
    mended = changed(document, *one.mend)
    assert not analyse(mended).shop
    kept = changed(document, Set(("waived", "w"), {"finding": one.name, "of": list(one.of), "reason": "drilled later"}))
    findings = analyse(kept)
    assert [each.waived for each in findings.shop] == ["drilled later"]
    path = tmp_path / "kept.anakinema"
    path.write_bytes(dumps(kept))
    assert main(["shop", str(path), "--json", str(tmp_path / "o.json")]) == 0
    assert "waived" in capsys.readouterr().out
    told = json.loads((tmp_path / "o.json").read_text())
    assert told["shop"][0]["waived"] == "drilled later" and told["shop"][0]["of"] == ["front", "screw"]
    path.write_bytes(dumps(document))
    assert main(["shop", str(path)]) == 1


def cautions(name: str) -> Findings:
    return analyse(example(name)[0])


def test_the_nip_of_the_press_is_found_with_its_numbers() -> None:
    """The platen's lower face stands 20 under the wrist, the bed 132 under the pivot: 132 − 20 − 55 (sin 130° and 91°,
    twice) is what is open between them."""
    import math

    (one,) = [each for each in cautions("nipping-press").cautions if each.kind == "crush"]
    opens, closes = (132 - 20 - 110 * math.sin(math.radians(angle)) for angle in (130, 91))
    assert set(one.parts) == {"platen", "frame"} and one.limbs == ("finger",)
    assert one.opens == pytest.approx(opens, abs=0.05) and one.closes == pytest.approx(closes, abs=0.05)
    assert one.driver == pytest.approx(math.radians(-91), abs=1e-6) and one.speed > 0 and one.spans


def test_what_draws_in_and_what_stores_energy_is_named() -> None:
    assert {one.kind for one in cautions("planetary-reel").cautions} == {"nip"}
    stored = [one for one in cautions("ratchet-feed").cautions if one.kind == "energy"]
    assert {one.place for one in stored} >= {"joints.holder-swing", "joints.driver-swing"}
    tree = {"anakinema": 1, "parts": {
        "frame": {"fixed": True, "points": {"O": [0, 0]}},
        "arm": {"points": {"O": [0, 0]}, "item": {"density": 1e6}, "depth": [0, 10],
                "shapes": [{"kind": "rectangle", "center": [100, 0], "size": [10, 10]}]}},
        "joints": {"pin": {"type": "revolute", "a": "frame.O", "b": "arm.O"}},
        "drivers": {"turn": {"joint": "pin", "from": 0, "to": 90, "steps": 9}}}  # fmt: skip
    (one,) = analyse(read_document(tree)).cautions
    assert one.kind == "energy" and "0.981 J" in one.text and "100 mm" in one.text  # 1 kg by 0.1 m


@pytest.mark.parametrize(("gap", "limbs"), [
    (24, ("finger", "hand")), (26, ("hand",)), (101, ("arm",)), (501, ()), (2, ("finger",))])
def test_minimum_gaps_are_those_of_iso_13854(gap: float, limbs: tuple[str, ...]) -> None:
    """A block that comes from 50 further away: 25 mm keep a finger, 100 a hand (ISO 13854, from memory)."""
    block = {"kind": "rectangle", "center": [0, 0], "size": [20, 20]}
    tree = {"anakinema": 1, "parts": {
        "wall": {"fixed": True, "points": {"O": [0, 0]}, "shapes": [block], "depth": [0, 9]},
        "block": {"points": {"B": [0, 0]}, "pose": [20 + gap, 0, 0], "shapes": [block], "depth": [0, 9]}},
        "joints": {"way": {"type": "prismatic", "a": "wall.O", "b": "block.B", "direction": 0}},
        "drivers": {"go": {"joint": "way", "from": 20 + gap + 9, "to": 20 + gap, "steps": 9}}}  # fmt: skip
    found_ = analyse(read_document(tree)).cautions
    told = found_[0].limbs if found_ else ()
    assert told == limbs
