"""Made in one go: gears of discs, a cover plate, a cylinder, guides, slots of a drawing."""

import math

import pytest

from anakinema.document import changed, read_document
from anakinema.document.changes import Remove
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.geometry.drawn import DrawnPiece, Outline
from anakinema.geometry.shapes import GearTeeth, Slot
from anakinema.operations.importing import add_outlines
from anakinema.operations.ready import make_ready
from anakinema.operations.readymade import cover_plate, gears_of

EMPTY = read_document({"anakinema": 1, "parts": {}, "joints": {}})


def discs(**more):
    disc = {"kind": "disc", "center": "A"}
    return read_document({
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"L": [0, 0], "R": [47, 0]},
                      "shapes": [{"kind": "rectangle", "center": [20, 0], "size": [140, 80]}]},
            "pinion": {"points": {"A": [0, 0]}, "depth": [1, 2], "shapes": [{**disc, "diameter": 30}]},
            "wheel": {"points": {"A": [0, 0]}, "pose": [47, 0, 0], "depth": [1, 2],
                      "shapes": [{**disc, "diameter": 60}]},
        },
        "joints": {"in": {"type": "revolute", "a": "frame.L", "b": "pinion.A"},
                   "out": {"type": "revolute", "a": "frame.R", "b": "wheel.A"}, **more},
        "drivers": {"turn": {"joint": "in", "from": 0, "to": 360, "steps": 12, "rate": "60 rpm"}},
    })  # fmt: skip


def test_two_discs_become_wheels_that_mesh_by_their_sizes():
    document = discs()
    both = changed(document, *gears_of(document, "pinion", "wheel").changes)
    wheels = [both.parts[name].shapes[0] for name in ("pinion", "wheel")]
    assert all(isinstance(wheel, GearTeeth) for wheel in wheels) and wheels[1].teeth == 2 * wheels[0].teeth
    assert {"gears_module", "gears_pinion", "gears_wheel"} <= set(both.parameters)
    apart = complex(*both.parts["frame"].points["R"]) - complex(*both.parts["frame"].points["L"])
    assert apart == pytest.approx(wheels[0].module * (wheels[0].teeth + wheels[1].teeth) / 2)
    findings = analyse(both)
    assert findings.motion.stop is None and findings.gears["mesh"].mesh.contact_ratio > 1.2
    out = findings.motion.coordinates(findings.motion.grid)[:, findings.motion.system.coordinates.index("out")]
    assert abs(out[-1] - out[0]) == pytest.approx(math.pi)  # half as fast


def test_discs_that_turn_on_nothing_in_common_are_refused():
    document = discs()
    with pytest.raises(DocumentError, match="no disc"):
        gears_of(document, "frame", "wheel")
    loose = changed(document, Remove(("joints", "out")))
    with pytest.raises(DocumentError, match="turns on nothing"):
        gears_of(loose, "pinion", "wheel")


def test_a_cover_plate_lies_in_front_and_goes_with_its_frame():
    document = discs()
    covered = changed(document, *cover_plate(document, "frame", {name: part.pose for name, part in
                                                                 document.parts.items()}).changes)  # fmt: skip
    plate = covered.parts["frame-cover"]
    assert plate.depth == (2, 3) and len(plate.shapes) == 1
    findings = analyse(covered)
    assert findings.motion.mobility.dof == analyse(document).motion.mobility.dof and findings.motion.stop is None


@pytest.mark.parametrize(("kind", "way"), [("cylinder", 40.0), ("slideway", 80.0 * 2 / 3)])
def test_a_cylinder_and_guides_go_from_end_to_end(kind, way):
    document = changed(EMPTY, *make_ready(EMPTY, kind, 5 + 7j, 40.0).changes)
    joint = next(iter(document.joints.values()))
    assert (joint.limits.min, joint.limits.max) == pytest.approx((0, way))
    shapes = [shape for part in document.parts.values() for shape in part.shapes]
    sides = {feature.kind.name for shape in shapes for feature in shape.features()}
    assert "SIDE" in sides


def test_a_slot_is_recognised_in_an_imported_outline():
    """Two lines and two half circles; one that is a little off stays an outline."""
    def ring(radius, long, off=0.0):
        a, b = -long / 2, long / 2 + off * 1j
        return Outline("cut", (
            DrawnPiece(a - 1j * radius, b - 1j * radius), DrawnPiece(b - 1j * radius, b + 1j * radius, b, True),
            DrawnPiece(b + 1j * radius, a + 1j * radius),
            DrawnPiece(a + 1j * radius, a - 1j * radius, a, True)))  # fmt: skip

    for off, kind in ((0.0, "slot"), (0.5, "path")):
        made = changed(EMPTY, *add_outlines(EMPTY, [ring(3.0, 20.0, off)]).changes)
        shape = next(iter(made.parts.values())).shapes[0]
        assert shape.kind == kind
        if kind == "slot":
            assert isinstance(shape, Slot) and shape.width == 6
            assert abs(complex(*shape.through[1]) - complex(*shape.through[0])) == pytest.approx(20)
