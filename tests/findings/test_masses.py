"""Masses against closed forms: rectangles, discs, rings, round-ended bars; what their weight asks of a driver."""

import json
import math
from typing import Any

import numpy as np
import pytest
import shapely

from anakinema.cli import main
from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats.masses import mass_json
from anakinema.formats.project import dumps, example
from anakinema.geometry.mass import moments
from anakinema.kinematics.masses import GRAVITY, holding, mass_of
from anakinema.kinematics.simulation import simulate

STEEL = 7850e-9
"""kg/mm³"""


def part(*shapes: dict[str, Any], depth: tuple[float, float] = (0, 5), **item: Any) -> Any:
    one = {"points": {"A": [0, 0], "B": [40, 0]}, "shapes": list(shapes), "depth": list(depth)}
    document = read_document({"anakinema": 1, "parts": {"one": {**one, "item": {"material": "steel", **item}}}})
    return mass_of(document, document.parts["one"])


CLOSED = {  # area and polar moment about the centre, by any table of sections
    "plate": ({"kind": "rectangle", "center": [7, 3], "size": [30, 12]}, 7 + 3j, 360.0, 360 * (30**2 + 12**2) / 12),
    "disc": ({"kind": "disc", "center": [4, -2], "diameter": 20}, 4 - 2j, math.pi * 100, math.pi * 100 * 50),
    # Two half discs of radius 5 and a rectangle 40 by 10: half a disc's centre lies 4 r / 3π from its diameter.
    "bar": ({"kind": "bar", "through": ["A", "B"], "width": 10}, 20 + 0j, 400 + math.pi * 25,
            400 * (40**2 + 10**2) / 12 + math.pi * 25 * (25 / 2 + 20**2 + 2 * 20 * 4 * 5 / (3 * math.pi))),
}  # fmt: skip


@pytest.mark.parametrize("name", CLOSED)
def test_mass_centre_and_inertia_are_those_of_the_closed_forms(name: str) -> None:
    shape, center, area, polar = CLOSED[name]
    found = part(shape)
    assert found.mass == pytest.approx(STEEL * area * 5)
    assert found.center == pytest.approx(center, abs=1e-9)
    assert found.inertia == pytest.approx(STEEL * 5 * polar)


def test_holes_and_several_depths_count() -> None:
    disc = {"kind": "disc", "center": "A"}
    found = part({**disc, "diameter": 30}, {**disc, "diameter": 10, "cut": True},
                 {**disc, "center": "B", "diameter": 8, "depth": [5, 25]})  # fmt: skip
    ring, pin = math.pi * (225 - 25) * 5, math.pi * 16 * 20
    assert found.mass == pytest.approx(STEEL * (ring + pin))
    assert found.center == pytest.approx(40 * pin / (ring + pin))
    apart = found.center.real
    about = ring * (225 + 25) / 2 + pin * 8 + ring * apart**2 + pin * (40 - apart) ** 2
    assert found.inertia == pytest.approx(STEEL * about)


@pytest.mark.parametrize("name", ["sewing-head", "planetary-reel", "cam-box"])
def test_moments_are_those_of_a_polygon_of_many_corners(name: str) -> None:
    """Against shapely, with arcs as many chords."""
    for one in example(name)[0].parts.values():
        for slab in one.slabs:
            edges, rings = slab.region.edges, []
            for loop in slab.region.loops:
                fine = [2000 if abs(edges.sweep[k]) > 0.5 else 40 for k in loop]
                pieces = [edges.pick(np.full(n, k)).point(np.arange(n) / n) for n, k in zip(fine, loop, strict=True)]
                rings.append(np.concatenate([np.stack((z.real, z.imag), axis=1) for z in pieces]))
            shape = shapely.Polygon()
            for ring in rings:
                shape = shape.symmetric_difference(shapely.Polygon(ring))
            found = moments(edges)
            assert found.area == pytest.approx(shape.area, rel=1e-5)
            size = math.sqrt(shape.area)
            center = found.first / found.area
            assert (center.real, center.imag) == pytest.approx((shape.centroid.x, shape.centroid.y), abs=1e-4 * size)


def lever(**item: Any) -> dict[str, Any]:
    """A bar of 100 mm between its holes that swings about one end."""
    return {
        "anakinema": 1,
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}},
                  "arm": {"points": {"A": [0, 0], "B": [100, 0]}, "depth": [0, 5], "item": item,
                          "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 10}]}},
        "joints": {"swing": {"type": "revolute", "a": "frame.O", "b": "arm.A"}},
        "drivers": {"turn": {"joint": "swing", "from": 30, "to": 150, "duration": "1 s", "steps": 12}},
    }  # fmt: skip


def test_what_holds_an_arm_against_its_weight() -> None:
    """m g r cos θ, r to its centre; beyond the top it falls on."""
    motion = simulate(read_document(lever(material="steel")))
    mass = STEEL * 5 * (1000 + math.pi * 25)
    for t in (0.1, 0.4, 0.8):
        angle = math.radians(30 + 120 * t)
        found = holding(motion, t)
        assert found is not None
        assert found.effort == pytest.approx(mass * GRAVITY * 0.05 * math.cos(angle), rel=1e-6)
        assert found.fall == (-1 if math.cos(angle) > 0 else 1)
    height = {"measures": {"m": {"measure": "mass_center", "axis": "y"}}}
    track = analyse(read_document(lever(material="steel") | height))
    series = next(one for one in track.series if one.place == "measures.m")
    assert (series.low, series.high) == pytest.approx((25.0, 50.0), abs=1e-9)


def test_what_holds_one_driver_is_asked_with_the_others_held() -> None:
    """Two arms in a row: the shoulder bears the weight of both at their distance along x, whatever the elbow does then;
    also at its start, where a cycloidal law stands still."""
    document = lever(material="steel")
    arm = document["parts"]["arm"]
    joints = {**document["joints"], "elbow": {"type": "revolute", "a": "arm.B", "b": "fore.A"}}
    turn = {"joint": "swing", "from": 20, "to": 60, "duration": "1 s", "steps": 12, "law": "cycloidal"}
    drivers = {"turn": turn, "bend": {"joint": "elbow", "from": 0, "to": -70, "duration": "1 s"}}
    parts = {**document["parts"], "fore": arm}
    motion = simulate(read_document({**document, "parts": parts, "joints": joints, "drivers": drivers}))
    mass = STEEL * 5 * (1000 + math.pi * 25)
    for t in (0.0, 0.3, 0.7):
        placed = motion.positions(np.array([t]))[0]
        first, second = (placed[motion.system.body(name), 2] for name in ("arm", "fore"))
        found = holding(motion, t)
        assert found is not None
        torque = mass * GRAVITY * (0.05 * math.cos(first) + 0.1 * math.cos(first) + 0.05 * math.cos(second))
        assert found.effort == pytest.approx(torque, rel=1e-6)


def test_what_is_not_known_is_told_and_the_command_says_the_same(tmp_path: Any, capsys: Any) -> None:
    told = mass_json(simulate(read_document(lever(material="stel"))))
    assert told["unknown"] == {"arm": "the density of 'stel' is not known (did you mean 'steel'?)"}
    assert told["whole"] is None
    with pytest.raises(DocumentError, match=r"parts.arm.item.density: must be greater than zero"):
        read_document(lever(density=0))
    own = read_document(lever(material="stel") | {"materials": {"stel": {"density": 1000}}})
    path, out = tmp_path / "arm.anakinema", tmp_path / "mass.json"
    path.write_bytes(dumps(own))
    assert main(["mass", str(path), "--json", str(out)]) == 0
    assert json.loads(out.read_text()) == mass_json(simulate(own, 1))
    assert "to hold turn at the start takes" in capsys.readouterr().out
    assert json.loads(out.read_text())["whole"]["mass"] == pytest.approx(1e-6 * 5 * (1000 + math.pi * 25))
