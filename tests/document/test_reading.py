"""Reading documents: what the contract promises, and every fault with its place and its mend."""

import copy
import math
from typing import Any

import jsonschema
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import Remove, Set, changed, read_document
from anakinema.errors import DocumentError
from anakinema.formats import project

EXAMPLE = {
    "anakinema": 1,
    "title": "Needle bar",
    "units": {"length": "mm", "angle": "deg"},
    "parameters": {"throw": "14 mm", "rod": {"value": "3*throw", "note": "centre to centre"}},
    "parts": {
        "frame": {
            "fixed": True,
            "points": {"O": [0, 0], "way": [5, 0]},
            "shapes": [{"kind": "rectangle", "center": [0, 0], "size": [60, 20]}],
            "depth": [0, 6],
        },
        "crank": {
            "points": {"O": [0, 0], "P": ["throw", 0]},
            "pose": [0, 0, "30 deg"],
            "shapes": [{"kind": "bar", "through": ["O", "P"], "width": 8}],
            "depth": [6, 10],
        },
        "rod": {"points": {"P": [0, 0], "Q": ["rod", 0]}},
        "bar": {"points": {"Q": [0, 0]}},
    },
    "joints": {
        "main": {"type": "revolute", "a": "frame.O", "b": "crank.O"},
        "big": {"type": "revolute", "a": "crank.P", "b": "rod.P"},
        "small": {"type": "revolute", "a": "rod.Q", "b": "bar.Q"},
        "ram": {"type": "prismatic", "a": "frame.way", "b": "bar.Q", "direction": 0, "limits": {"min": 10, "max": 80}},
    },
    "drivers": {"turn": {"joint": "main", "from": 0, "to": 360, "steps": 360, "rate": "60 rpm"}},
    "traces": {"eye": {"point": "bar.Q"}},
    "checks": {
        "stroke": {"measure": "travel", "joint": "ram", "at_least": 28},
        "gap": {"measure": "clearance", "parts": ["rod", "frame"], "at_least": 0.5},
    },
}


def test_the_example_of_the_contract_reads_and_fits_the_schema():
    jsonschema.validate(EXAMPLE, project.schema())
    document = read_document(EXAMPLE)
    assert document.parts["rod"].points["Q"] == (42.0, 0.0)
    assert document.drivers["turn"].rate == pytest.approx(2 * math.pi)
    assert document.joints["ram"].limits.max == 80
    assert document.warnings == ()


def test_the_demo_fits_the_schema():
    jsonschema.validate(project.demo()[0].tree, project.schema())


def with_value(place: str, value: Any) -> dict[str, Any]:
    tree = copy.deepcopy(EXAMPLE)
    *above, last = place.split(".")
    here: Any = tree
    for key in above:
        here = here[int(key) if isinstance(here, list) else key]
    here[int(last) if isinstance(here, list) else last] = value
    return tree


SPECK = {"kind": "polygon", "vertices": [[0, 0], [1e-100, 0], [0, 1e-100]]}
FAULTS = [
    ("parts.crank.points.P", ["thorw", 0], "parts.crank.points.P: unknown parameter 'thorw' (did you mean 'throw'?)"),
    ("parameters.throw", "rod/3", "depends on itself: throw → rod → throw"),
    ("parameters.sin", 1, "parameters.sin: 'sin' is the name of a unit or function"),
    ("parts.crank.points.P", ["30 deg", 0], "parts.crank.points.P: a length is wanted here, this is an angle"),
    ("parts.crank.shapes.0.width", -8, "parts.crank.shapes.0.width: must be greater than zero, it is -8 mm"),
    ("parts.crank.shapes.0.width", 1e-305, "parts.crank.shapes.0.width: 1e-305 mm is too small to be meant"),
    ("parts.frame.shapes.0.size", [60, 1e-160], "parts.frame.shapes.0.size: 1e-160 mm is too small to be meant"),
    ("parts.frame.shapes.0.corner_radius", 5e-324, "corner_radius: 4.94066e-324 mm is too small to be meant; a sharp"),
    ("parts.frame.shapes.0", SPECK, "parts.frame.shapes.0: polygon: all its vertices are one point"),
    ("parts.frame.edges", {"lip": {"from": [0, 0], "to": [0, 1e-200]}}, "'from' and 'to' are the same point"),
    ("parts.crank.shapes.0.kind", "barr", "unknown shape 'barr'; one of bar, disc, rectangle"),
    ("parts.crank.depth", [10, 6], "parts.crank.depth: runs from 10 to 6; the second number must be the larger one"),
    ("parts.crank.fixed", "yes", "parts.crank.fixed: true or false is wanted, this is a text"),
    ("parts.a b", {}, "parts.a b: a name may hold only letters, digits, '_' and '-'"),
    ("joints.main.b", "crank.X", "joints.main.b: part 'crank' has no point 'X'"),
    ("joints.main.b", "cranc.O", "joints.main.b: there is no part 'cranc' (did you mean 'crank'?)"),
    ("joints.main.b", "frame.way", "joints.main: joins part 'frame' to itself"),
    ("joints.main.type", "revolut", "unknown joint type 'revolut' (did you mean 'revolute'?)"),
    ("joints.ram.direction", "3 mm", "joints.ram.direction: an angle is wanted here, this is a length"),
    ("joints.ram.limits", {"min": 5, "max": 1}, "joints.ram.limits: min 5 mm is above max 1 mm"),
    ("drivers.turn.joint", "mian", "there is no joint 'mian' (did you mean 'main'?)"),
    ("drivers.turn.steps", 0, "drivers.turn.steps: a whole number from 1 to"),
    ("joints.belt", {"type": "belt", "a": "main", "b": "big", "diameters": [20, 1e-305]}, "can't be meant"),
    ("joints.rod", {"type": "distance", "a": "frame.O", "b": "bar.Q", "length": 1e-160}, "'length' must be greater"),
    ("drivers.turn.rate", "3 mm/s", "drivers.turn.rate: an angular rate is wanted here"),
    ("checks.stroke.at_least", "4 deg", "checks.stroke.at_least: a length is wanted here, this is an angle"),
    ("checks.gap.parts", ["rod", "rod"], "checks.gap.parts: names the same part twice"),
    ("checks.gap.measure", "gap", "unknown measure 'gap'"),
    ("units.length", "furlong", "units.length: unknown unit 'furlong'"),
    ("anakinema", 2, "anakinema: version 2 is not known to this program"),
    ("parts", [], "parts: an object is wanted, this is a list"),
]


@pytest.mark.parametrize(("place", "value", "message"), FAULTS, ids=[f"{place}={value}" for place, value, _ in FAULTS])
def test_faults_name_the_thing_the_place_and_the_mend(place, value, message):
    with pytest.raises(DocumentError) as caught:
        read_document(with_value(place, value))
    assert message in str(caught.value)


def test_all_faults_are_told_at_once():
    tree = with_value("parts.crank.points.P", ["thorw", 0])
    tree["joints"]["ram"]["direction"] = "3 mm"
    with pytest.raises(DocumentError) as caught:
        read_document(tree)
    assert len(caught.value.faults) == 2


def test_unknown_keys_are_kept_and_told():
    document = read_document(with_value("parts.crank.material", "brass"))
    assert [fault.place for fault in document.warnings] == ["parts.crank.material"]
    assert changed(document, Set(["title"], "x")).tree["parts"]["crank"]["material"] == "brass"


def test_edits_make_new_documents_and_leave_the_old_one():
    document = read_document(EXAMPLE)
    longer = changed(document, Set(["parameters", "throw"], "20 mm"))
    assert longer.parts["rod"].points["Q"] == (60.0, 0.0)
    assert document.parts["rod"].points["Q"] == (42.0, 0.0)
    open_ended = changed(longer, Remove(["joints", "ram", "limits", "max"]))
    assert open_ended.joints["ram"].limits.max is None
    assert list(open_ended.tree) == list(EXAMPLE)
    with pytest.raises(DocumentError):
        changed(document, Set(["parameters", "throw"], "20 deg"))


ANYTHING = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3),
    max_leaves=6,
)


@settings(max_examples=150, deadline=None)
@given(st.sampled_from([place for place, _, _ in FAULTS]), ANYTHING)
def test_anything_anywhere_is_read_or_refused(place, value):
    try:
        read_document(with_value(place, value))
    except DocumentError as error:
        assert error.faults and all(fault.text for fault in error.faults)
