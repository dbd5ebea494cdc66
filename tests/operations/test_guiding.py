"""Slots cut along the path that a pin takes on a part."""

import math

import numpy as np
import pytest

from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.geometry.outline import slabs
from anakinema.geometry.rings import area
from anakinema.kinematics.simulation import simulate
from anakinema.operations import slot_along, usual_width


def handle(swing=(0, 70), around=False):
    """A handle about the origin; a pin on a link of it is seen from a plate that stands."""
    return {
        "anakinema": 1,
        "parts": {
            "plate": {"fixed": True, "points": {"O": [0, 0], "Q": [60, 0]},
                      "shapes": [{"kind": "rectangle", "center": [20, 20], "size": [160, 160]}]},
            "handle": {"points": {"O": [0, 0], "A": [30, 0]}, "depth": [12, 14],
                       "shapes": [{"kind": "bar", "through": ["O", "A"], "width": 8}]},
            "link": {"points": {"A": [0, 0], "C": [40, 0], "pin": [20, 12]}, "pose": [30, 0, 60],
                     "shapes": [{"kind": "disc", "center": "pin", "diameter": 5, "depth": [0, 20]}], "depth": [14, 16]},
            "rocker": {"points": {"C": [0, 0], "Q": [38, 0]}, "pose": [50, 34, -74]},
        },
        "joints": {
            "grip": {"type": "revolute", "a": "plate.O", "b": "handle.O"},
            "knee": {"type": "revolute", "a": "handle.A", "b": "link.A"},
            "tip": {"type": "revolute", "a": "link.C", "b": "rocker.C"},
            "foot": {"type": "revolute", "a": "plate.Q", "b": "rocker.Q"},
        } if not around else {"grip": {"type": "revolute", "a": "plate.O", "b": "handle.O"}},
        "drivers": {"hand": {"joint": "grip", "from": swing[0], "to": swing[1], "steps": 60}},
        "traces": {"path": {"point": "link.pin" if not around else "handle.A", "on": "plate"}},
    }  # fmt: skip


def test_a_pins_path_becomes_a_slot_in_which_it_runs_and_its_ends_the_limits():
    document = read_document(handle())
    motion = simulate(document)
    width = usual_width(document, "path")
    assert width == 5
    made = changed(document, *slot_along(motion, "path", width + 0.4).changes)
    (cut,) = (shape for shape in made.parts["plate"].shapes if shape.cut)
    region = slabs((type(cut)(start=cut.start, segments=cut.segments),), (0.0, 1.0))[0].region
    assert region.edges is not None
    found = analyse(changed(made, *[]))
    gap = next(one for one in found.approaches if set(one.parts) == {"plate", "link"})
    assert gap.proven and gap.distance == pytest.approx(0.2, abs=2e-5)  # all along, and at both ends
    limits = made.joints["grip"].limits
    ends = [math.degrees(one) for one in (limits.min, limits.max)]
    assert ends == pytest.approx([0, 70], abs=1e-5)
    further = analyse(changed(made, *_driven(80)))
    assert further.motion.stop is not None and further.motion.stop.reason == "limit"


def _driven(to):
    from anakinema.document import Set

    return [Set(("drivers", "hand", "to"), to)]


def test_a_path_that_runs_round_becomes_a_closed_track():
    document = read_document(handle((0, 360), around=True))
    made = changed(document, *slot_along(simulate(document), "path", 6).changes)
    cuts = [shape for shape in made.parts["plate"].shapes if shape.cut]
    edges = [slabs((type(cut)(start=cut.start, segments=cut.segments),), (0.0, 1.0))[0].region.edges for cut in cuts]
    assert len(cuts) == 2 and made.joints["grip"].limits.max is None
    assert sum(map(area, edges)) == pytest.approx(math.pi * (33**2 - 27**2), rel=1e-6)


def test_a_slot_that_is_too_wide_for_its_bends_is_refused_and_one_that_stands_still_too():
    document = read_document(handle())
    with pytest.raises(DocumentError, match="bends with a radius of"):
        slot_along(simulate(document), "path", 200)
    tree = handle()
    tree["traces"]["path"]["point"] = "plate.Q"
    del tree["traces"]["path"]["on"]
    with pytest.raises(DocumentError, match="stands still"):
        slot_along(simulate(read_document(tree)), "path", 5)


def test_the_sides_lie_beside_the_path():
    document = read_document(handle((-40, 80)))
    motion = simulate(document)
    made = changed(document, *slot_along(motion, "path", 6).changes)
    cut = next(shape for shape in made.parts["plate"].shapes if shape.cut)
    points = np.array([complex(*one.to) for one in cut.segments])
    t = np.linspace(0, motion.path.t1, 4001)
    q = motion.positions(t)[:, motion.system.body("link")]
    path = q[:, 0] + 1j * q[:, 1] + (20 + 12j) * np.exp(1j * q[:, 2])
    gaps = np.abs(points[:, None] - path[None, :]).min(axis=1)
    assert gaps.max() < 3.001 and gaps.min() > 2.999
