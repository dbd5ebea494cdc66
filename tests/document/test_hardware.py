"""Hardware: tables against their standards, lengths by stacks that were worked out by hand, and that it follows."""

import math
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.document import read_document
from anakinema.document.changes import Set, changed
from anakinema.errors import DocumentError
from anakinema.formats.project import dumps, example
from anakinema.hardware import TABLES, clearance_hole, table
from anakinema.kinematics.masses import mass_of
from anakinema.kinematics.simulation import simulate
from anakinema.operations.fastening import WAYS, bolt_together, pin_joint, sizes_of

SAMPLES = {  # from memory of the standards, one size of each table, written down apart from them
    "ISO 4762": ("M8", {"head": 13.0, "high": 8.0, "pitch": 1.25}),
    "ISO 4017": ("M10", {"flats": 16.0, "high": 6.4}),
    "ISO 10642": ("M6", {"head": 13.44, "high": 3.72}),
    "ISO 4026": ("M5", {"thread": 5.0, "pitch": 0.8}),
    "ISO 7379": ("10", {"shoulder": 10.0, "thread": 8.0, "head": 16.0, "high": 7.0, "tail": 13.25}),
    "ISO 4032": ("M12", {"flats": 18.0, "high": 10.8}),
    "ISO 10511": ("M6", {"flats": 10.0, "high": 6.0}),
    "ISO 7089": ("M8", {"inner": 8.4, "outer": 16.0, "high": 1.6}),
    "ISO 2338": ("6", {"diameter": 6.0, "least": 12.0, "most": 60.0}),
    "ISO 2341": ("8", {"head": 14.0, "high": 3.0}),
    "DIN 471": ("10", {"inner": 9.6, "high": 1.0, "groove": 1.1}),
    "DIN 705": ("12", {"inner": 12.0, "outer": 22.0, "high": 12.0}),
    "ISO 3547": ("20", {"inner": 20.0, "outer": 23.0}),
    "ISO 15": ("6202", {"inner": 15.0, "outer": 35.0, "high": 11.0}),
    "ASME B18.3": ("1/4", {"thread": 6.35, "head": 9.525, "pitch": 25.4 / 20}),
    "ASME B18.2.2": ("3/8", {"flats": 14.2875}),
    "ASME B18.21.1": ("1/2", {"inner": 13.4874}),
    "spacer": ("6x10", {"inner": 6.4, "outer": 10.0}),
}


@pytest.mark.parametrize("standard", TABLES)
def test_a_sample_of_every_table_is_that_of_its_standard(standard: str) -> None:
    size, sizes = SAMPLES[standard]
    one = TABLES[standard]
    assert one.source and {name: one.rows[size][name] for name in sizes} == pytest.approx(sizes)
    assert table(standard.lower().replace(" ", "")) is one
    for row in one.rows.values():  # each grows with its size, heads are wider than shanks, made in some length
        assert not one.kind.long or one.kind.name == "ball bearing" or row.lengths
        solids = one.kind.solids(row.sizes, 20.0)
        assert all(solid.high > solid.low and solid.outer > solid.inner for solid in solids)


def test_clearance_holes_are_those_of_iso_273() -> None:
    assert [(one.fine, one.medium, one.coarse) for one in map(clearance_hole, ("M6", "M10"))] == [
        (6.4, 6.6, 7.0), (10.5, 11.0, 12.0)]  # ISO 273, from memory
    assert clearance_hole("M7") is None


def stack(thick: float | str = 5, **screw: Any) -> dict[str, Any]:
    """Two bars of 5 mm on each other, pinned by an M6 screw with a washer at each end and a lock nut."""
    hole = {"kind": "disc", "center": "P", "diameter": 6.6, "cut": True}
    bar = {"kind": "bar", "through": ["P", "Q"], "width": 20}

    def piece(standard: str, **more: Any) -> dict[str, Any]:
        return {"hardware": {"standard": standard, "size": "M6", "at": "front.P", "through": ["back.P"], **more}}

    return {
        "anakinema": 1,
        "parameters": {"thick": thick},
        "parts": {
            "back": {"fixed": True, "points": {"P": [0, 0], "Q": [50, 0]}, "shapes": [bar, hole], "depth": [0, 5]},
            "front": {"points": {"P": [0, 0], "Q": [40, 0]}, "pose": [0, 0, 40], "shapes": [bar, hole],
                      "depth": [5, "5 + thick"]},
            "washer": piece("ISO 7089", front_of="front"),
            "screw": piece("ISO 4762", front_of="washer", to="nut", **screw),
            "washer2": piece("ISO 7089", behind="back"),
            "nut": piece("ISO 10511", behind="washer2"),
        },
        "joints": {"pin": {"type": "revolute", "a": "back.P", "b": "front.P"}},
        "drivers": {"turn": {"joint": "pin", "from": 40, "to": 80, "steps": 4}},
    }  # fmt: skip


def test_the_length_is_the_least_that_leaves_a_thread_proud() -> None:
    """Washer 1.6, bars 5 and 5, washer 1.6, nut 6, a pitch of 1: 20.2, so 25 of 16, 20, 25…"""
    document = read_document(stack())
    screw = document.parts["screw"].hardware
    assert screw is not None and screw.length == 25.0 and not screw.unfit
    assert document.parts["screw"].depth == pytest.approx((11.6 - 25, 11.6 + 6))
    assert document.parts["nut"].depth == pytest.approx((-7.6, -1.6))
    assert document.parts["screw"].item.name == "Socket head screw M6 × 25"


@given(st.floats(1.0, 60.0))
@settings(max_examples=40, deadline=None)
def test_it_follows_when_a_plate_grows_or_says_what_no_longer_fits(thick: float) -> None:
    """Lengths of an M6 reach to 60 (ISO 4762): the least of them, or a word that there is none."""
    screw = read_document(stack(round(thick, 3))).parts["screw"].hardware
    assert screw is not None
    wanted = 1.6 + 5 + round(thick, 3) + 1.6 + 6 + 1
    made = [10, 12, 16, 20, 25, 30, 35, 40, 45, 50, 55, 60]
    fits = [length for length in made if length >= wanted - 1e-6]
    assert screw.length == (fits[0] if fits else 60.0)
    assert bool(screw.unfit) is not bool(fits)


def test_pieces_move_with_what_carries_them_and_cost_no_equation() -> None:
    document = read_document(stack())
    motion = simulate(document)
    bare = simulate(read_document({**stack(), "parts": {
        name: part for name, part in stack()["parts"].items() if "hardware" not in part}}))
    assert motion.system.body_ids == bare.system.body_ids and motion.mobility.dof == 1
    where = motion.system.by_part(motion.positions(motion.state.t[-1:])[0])
    assert where["screw"] == where["front"] and where["front"][2] == pytest.approx(math.radians(80))
    # Head of 10 by 6 and a shank of 6 by 25, of steel.
    volume = math.pi / 4 * (10**2 * 6 + 6**2 * 25)
    assert mass_of(document, document.parts["screw"]).mass == pytest.approx(volume * 7850e-9)


def test_other_units_other_sides_and_uses_of_a_sub_assembly() -> None:
    tree = stack()
    inside = {key: tree.pop(key) for key in ("parts", "joints", "parameters")}
    inside["parts"]["back"].pop("fixed")
    tree |= {"assemblies": {"pair": inside}, "units": {"length": "mm"},
             "parts": {"base": {"fixed": True}, "one": {"assembly": "pair", "pose": [10, 0, 0], "lift": 30},
                       "two": {"assembly": "pair", "pose": [90, 0, 0], "mirror": True}}}  # fmt: skip
    tree.pop("drivers")
    document = read_document(tree)
    low, high = document.parts["one/screw"].depth
    assert (low, high) == pytest.approx((11.6 - 25 + 30, 17.6 + 30))
    both = document.parts["two/screw"].hardware
    assert both is not None and both.at.part == "two/front" and not both.front and both.seat == "two/washer"
    inch = stack()
    inch["units"] = {"length": "in"}
    for part in inch["parts"].values():
        if "shapes" in part:
            part["shapes"] = [{**shape, "diameter": 0.26} if "diameter" in shape else {**shape, "width": 0.8}
                              for shape in part["shapes"]]  # fmt: skip
    inch["parts"]["back"]["depth"], inch["parts"]["front"]["depth"] = [0, "5 mm"], ["5 mm", "10 mm"]
    assert read_document(inch).parts["screw"].hardware.length * 25.4 == pytest.approx(25.0)


FAULTS = {
    "size": ({"size": "M7"}, "has no size 'M7'"),
    "standard": ({"standard": "ISO 9999"}, "there is no table"),
    "seat": ({"front_of": "screw"}, "lies on itself|on itself"),
    "nobody": ({"front_of": "wahser"}, "did you mean 'washer'"),
    "both": ({"behind": "back"}, "both 'front_of' and 'behind'"),
    "nowhere": ({"at": "front.X"}, "has no point 'X'"),
    "on hardware": ({"at": "washer.axis"}, "is hardware itself"),
    "no end": ({"to": ""}, "say how long it is"),
    "thin": ({"length": 0}, "greater than zero"),
}  # fmt: skip


@pytest.mark.parametrize("name", FAULTS)
def test_what_makes_no_sense_is_told_at_its_place(name: str) -> None:
    given, words = FAULTS[name]
    tree = stack()
    tree["parts"]["screw"]["hardware"] |= given
    with pytest.raises(DocumentError, match=words) as caught:
        read_document(tree)
    assert caught.value.faults[0].place.startswith("parts.screw")


def test_pieces_that_lie_on_each_other_in_a_circle_are_refused() -> None:
    tree = stack()
    tree["parts"]["washer"]["hardware"]["front_of"] = "screw"
    with pytest.raises(DocumentError, match="lies on itself"):
        read_document(tree)


@pytest.mark.parametrize("way", WAYS)
def test_one_command_pins_a_joint_and_what_it_puts_in_fits(way: str) -> None:
    """Bare bars: holes are drilled, all pieces stand, the long one is long enough (ways with a thread leave one proud).
    """
    tree = stack()
    tree["parts"] = {name: part for name, part in tree["parts"].items() if "hardware" not in part}
    for part in tree["parts"].values():
        part["shapes"] = part["shapes"][:1]
    document = read_document(tree)
    document = changed(document, *pin_joint(document, "pin", way).changes)
    pieces = [part.hardware for part in document.parts.values() if part.hardware is not None]
    assert len(pieces) == len(WAYS[way].pieces) and not any(piece.unfit for piece in pieces)
    assert all(any(shape.cut for shape in document.parts[name].shapes) for name in ("back", "front"))
    assert read_document(document.tree).parts.keys() == document.parts.keys()
    assert dumps(document)


def test_what_can_t_be_pinned_or_bolted_is_told_with_the_mend() -> None:
    document = read_document(stack())
    with pytest.raises(DocumentError, match="there is no such joint"):
        pin_joint(document, "pim")
    with pytest.raises(DocumentError, match="is not made in M7"):
        pin_joint(document, "pin", "screw", "M7")
    with pytest.raises(DocumentError, match="rigid group first"):
        bolt_together(document, ["back", "front"])
    tree = stack()
    tree["parts"] = {name: part for name, part in tree["parts"].items() if "hardware" not in part}
    tree |= {"joints": {}, "drivers": {}, "groups": {"all": {"parts": ["back", "front"]}}}
    tree["parts"]["front"]["pose"] = [1.5, 0, 0]
    with pytest.raises(DocumentError, match=r"line up: back.P and front.P are nearest, 1.5 mm apart"):
        bolt_together(read_document(tree), ["back", "front"])
    tree["parts"]["front"]["pose"] = [0, 0, 0]
    bolted = changed(read_document(tree), *bolt_together(read_document(tree), ["back", "front"]).changes)
    assert {"bolt1-screw", "bolt1-nut"} <= bolted.parts.keys()
    assert sizes_of("inch") == ["1/4", "5/16", "3/8", "1/2"]


def test_hardware_is_renamed_deleted_and_lifted_as_parts_are() -> None:
    from anakinema.document.changes import Rename
    from anakinema.operations import leave
    from anakinema.operations.layering import shifted

    document = read_document(stack())
    renamed = changed(document, Rename(("parts", "washer"), "disc"))
    assert renamed.parts["screw"].hardware.seat == "disc"
    assert not {"screw", "nut"} & changed(document, *leave(document, ("parts", "front")).changes).parts.keys()
    nearer = changed(document, *shifted(document, "nut", -2.0).changes)
    assert nearer.parts["nut"].depth == pytest.approx((-9.6, -3.6))
    thicker = changed(document, Set(("parameters", "thick"), 12))
    assert thicker.parts["screw"].hardware.length == 30.0


def test_the_examples_with_hardware_hold() -> None:
    for name, count in (("nipping-press", 13), ("rocking-lever", 14)):
        document, _ = example(name)
        assert len(document.carried) == count
        assert not any(document.parts[each].hardware.unfit for each in document.carried)
