"""What is already in a document stays: no operation changes the value of what it does not name. On documents with
definitions, shadowed names and expressions everywhere, every number is resolved before and after."""

import json
from itertools import product
from typing import Any

import pytest

from anakinema.document import Rename, Set, changed, read_document
from anakinema.document.model import Document
from anakinema.errors import DocumentError
from anakinema.operations import clip, gather, insert, leave, paste, use_again
from anakinema.operations.building import add_bar, add_hole, duplicate

PLATE = {"points": {"A": ["w", 0], "B": ["2*w + t", "w/2"]}, "shapes": [
    {"kind": "bar", "through": ["A", "B"], "width": "t"},
    {"kind": "disc", "center": "A", "diameter": "t/2", "cut": True},
]}  # fmt: skip


def bench(w: Any = 20, t: Any = "w/4", own: Any = 7, leaf: Any = "w/10") -> Document:
    """A document in which `w` is one thing at the top and another in some definitions, used in some with other
    numbers; `t` is only at the top, and seen from within."""
    return read_document({
        "anakinema": 1,
        "parameters": {"w": w, "t": t, "unused": "3*t", "swing": "t/w*(160 deg)"},
        "assemblies": {
            "leaf": {"parts": {"blade": PLATE, "stem": {"points": {"A": [0, 0], "C": ["t", leaf]}}},
                     "joints": {"pin": {"type": "revolute", "a": "blade.A", "b": "stem.A", "zero": "swing"}}},
            "jaw": {"parameters": {"w": own, "deep": "w + t"},
                    "parts": {"base": {**PLATE, "fixed": True}, "arm": {"points": {"A": ["deep", 0]}},
                              "inner": {"assembly": "leaf", "pose": ["w", 0, 0]}},
                    "joints": {"hinge": {"type": "revolute", "a": "base.A", "b": "arm.A"}}},
        },
        "parts": {
            "frame": {**PLATE, "fixed": True}, "lever": {"points": {"A": ["w", 0], "T": ["t", "unused"]}},
            "left": {"assembly": "jaw", "pose": [100, 0, 0], "parameters": {"w": "w + 1"}},
            "right": {"assembly": "jaw", "pose": [200, 0, 0]}, "single": {"assembly": "leaf", "pose": [300, 0, 0]},
            "twin": {"of": "lever", "pose": [0, 50, 0]},
        },
        "joints": {"main": {"type": "revolute", "a": "frame.A", "b": "lever.A", "limits": {"min": "-swing", "max": 90}},
                   "other": {"type": "revolute", "a": "frame.B", "b": "twin.A"}},
        "drivers": {"lift": {"joint": "main", "from": 0, "to": "swing/2"},
                    "led": {"joint": "other", "follows": "lift/2 + swing"}},
        "checks": {"reach": {"measure": "travel", "joint": "main", "at_least": "swing/4"}},
    })  # fmt: skip


def resolved(document: Document) -> dict[str, Any]:
    """Every number, by what it is of: parts and joints as they stand, those of all uses among them."""
    found: dict[str, Any] = {f"parameters.{name}": one.quantity for name, one in document.parameters.items()}
    for name, part in document.parts.items():
        found |= {f"{name}.{point}": spot for point, spot in part.points.items()}
        found[f"{name} shapes"] = repr(part.shapes)
        found[f"{name} pose"] = part.pose
    for name, joint in document.joints.items():
        found[f"joint {name}"] = (dict(joint.values), joint.limits.min, joint.limits.max)
    for name, driver in document.drivers.items():
        found[f"driver {name}"] = (driver.start, driver.stop) if hasattr(driver, "start") else repr(driver)
    for name, check in document.checks.items():
        found[f"check {name}"] = (check.at_least, check.at_most)
    return found


def kept(before: Document, after: Document, *without: str) -> None:
    """All that was there, but for what an operation speaks of, is worth what it was."""
    now = resolved(after)
    for what, value in resolved(before).items():
        if not any(what.startswith(word) for word in without):
            assert now.get(what) == value, what


VERSIONS = [bench(), bench(w=33), bench(t="w/3"), bench(own=9), bench(leaf="w/7"),
            bench(w="41 mm", t="6 mm", own="t*2"), bench(w="50 mm", leaf="unused/5")]  # fmt: skip


@pytest.mark.parametrize(("host", "guest"), product(range(len(VERSIONS)), repeat=2))
def test_what_is_pasted_or_put_in_leaves_the_host_as_it_was_and_comes_as_it_is(host: int, guest: int):
    one, two = VERSIONS[host], VERSIONS[guest]
    for parts in (["frame"], ["left"], ["single", "lever"], ["right", "twin", "lever"]):
        made = paste(one, json.loads(json.dumps(clip(two, parts))), 5 + 5j)
        after = changed(one, *made.changes)
        kept(one, after)
        old, new = resolved(one), resolved(after)
        came = sorted(shapes for name, shapes in new.items() if name.endswith(" shapes") and name not in old)
        wanted = [repr(part.shapes) for name, part in two.parts.items() if name.split("/")[0] in parts]
        assert came == sorted(wanted)
    after = changed(one, *insert(one, two, "guest").changes)
    kept(one, after)
    (use,) = set(after.tree["parts"]) - set(one.tree["parts"])
    for name, part in two.parts.items():
        assert after.parts[f"{use}/{name}"].points == part.points and after.parts[f"{use}/{name}"].shapes == part.shapes


NAMES = ["w", "t", "deep", "unused", "swing", "lift", "led", "deg", "pi", "rad", "mm", "sqrt", "fresh"]
PLACES = [("parameters", "w"), ("parameters", "t"), ("parameters", "unused"), ("parameters", "swing"),
          ("assemblies", "jaw", "parameters", "w"), ("assemblies", "jaw", "parameters", "deep"),
          ("drivers", "lift"), ("drivers", "led")]  # fmt: skip


@pytest.mark.parametrize("place", PLACES)
@pytest.mark.parametrize("name", NAMES)
def test_a_new_name_captures_nothing(place: tuple[str, ...], name: str):
    """Either all is worth what it was, or the name is refused in words."""
    before = bench()
    try:
        after = changed(before, Rename(place, name))
    except DocumentError as error:
        assert name != "fresh" and name in str(error)
        return
    own = {f"parameters.{place[1]}"} if place[0] == "parameters" else {f"driver {place[1]}", "driver led"}
    kept(before, after, *own)


@pytest.mark.parametrize("place", PLACES[:6])
def test_a_parameter_that_goes_leaves_its_value(place: tuple[str, ...]):
    before = bench(t="w/4", own="t + 2")
    after = changed(before, *leave(before, place).changes)
    kept(before, after, f"parameters.{place[1]}", *(["left"] if place[-1] == "w" and place[0] == "assemblies" else []))


def test_what_follows_a_driver_goes_with_it():
    before = bench()
    leaving = leave(before, ("drivers", "lift"))
    assert leaving.also == (("drivers", "led"),)
    assert not changed(before, *leaving.changes).drivers
    assert ("drivers", "led") in leave(before, ("joints", "main")).also


def test_making_copying_and_gathering_change_nothing_else():
    before = bench()
    for made in (
        add_bar(before, [0j, 30 + 4j]), duplicate(before, "frame", 9j),
        use_again(before, "jaw", 40 + 0j), add_hole(before, "lever", 3 + 0j, "t/3"),
    ):  # fmt: skip
        kept(before, changed(before, *made.changes), "lever shapes", "twin shapes")
    gathered = changed(before, *gather(before, ["lever", "twin"], "pair").changes)
    kept(before, gathered, "lever", "twin", "joint", "driver", "check")
    (use,) = [name for name in gathered.tree["parts"] if name not in before.tree["parts"]]
    for name in ("lever", "twin"):
        assert gathered.parts[f"{use}/{name}"].points == before.parts[name].points
    assert changed(before, Set(("title",), "another")).parts == before.parts
