"""Swept areas against closed forms and the dense union of a geometry library."""

import math
from typing import Any

import numpy as np
import pytest
import shapely
import shapely.affinity

from anakinema.clearance.swept import members, outline_of, stand, swept
from anakinema.cli import main
from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats.project import dumps, example
from anakinema.geometry.areas import placed
from anakinema.kinematics.simulation import simulate


def arm(to: float, **sections: Any) -> dict[str, Any]:
    """A bar 50 long and 10 wide that turns about its end."""
    return {
        "anakinema": 1,
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0]}, "depth": [0, 2],
                      "shapes": [{"kind": "rectangle", "center": "O", "size": [120, 120]}]},
            "arm": {"points": {"O": [0, 0], "P": [50, 0]}, "depth": [2, 4],
                    "shapes": [{"kind": "bar", "through": ["O", "P"], "width": 10}]},
            "post": {"fixed": True, "points": {"O": [0, 0]}, "pose": [80, 0, 0], "depth": [2, 4],
                     "shapes": [{"kind": "disc", "center": "O", "diameter": 20}]},
        },
        "joints": {"pivot": {"type": "revolute", "a": "frame.O", "b": "arm.O"}},
        "drivers": {"turn": {"joint": "pivot", "from": 0, "to": to, "steps": 36}},
        **sections,
    }  # fmt: skip


@pytest.mark.parametrize(("to", "area"), [
    (360, math.pi * 55**2), (1440, math.pi * 55**2),
    # A quarter: the bar, and the sector that its end opens, less what of the first is in the second.
    (90, math.pi * 55**2 / 4 + 2 * (50 * 5) + 1.5 * math.pi * 25 / 2 - 0.0),
])  # fmt: skip
def test_a_turning_bar_sweeps_a_disc_or_a_sector(to: float, area: float) -> None:
    found = swept(simulate(read_document(arm(to))), ["arm"])
    if to == 90:  # the sector by a library, from the exact shapes at very many angles
        bar = shapely.LineString([(0, 0), (50, 0)]).buffer(5, quad_segs=64)
        area = shapely.union_all([shapely.affinity.rotate(bar, angle, origin=(0, 0))
                                  for angle in np.linspace(0, 90, 721)]).area  # fmt: skip
    assert found.error < 0.3
    assert found.area.area == pytest.approx(area, abs=found.error * found.area.length)
    assert len(found.rings) == 1


@pytest.mark.parametrize("name", ["sewing-head", "transfer-arm", "quick-return"])
def test_it_is_the_dense_union_but_for_its_error(name: str) -> None:
    document, _ = example(name)
    motion = simulate(document)
    t = np.linspace(0.0, motion.path.t1, 900)
    for part in [one for one in document.parts.values() if one.slabs and not one.fixed][:3]:
        found = swept(motion, [part.id])
        q = motion.positions(t)[:, motion.system.body(part.id)]
        dense = shapely.union_all(placed(outline_of(part, 1e-3), q[:, 0] + 1j * q[:, 1], np.exp(1j * q[:, 2])))
        assert shapely.area(dense - shapely.buffer(found.area, found.error)) == pytest.approx(0.0, abs=1e-6)
        far = np.array([part.slabs[0].region.reach + 0j])
        steps = float(np.abs(np.diff(stand(motion, part.id, "", far, t), axis=0)).max())  # corners leave gaps so deep
        assert shapely.area(found.area - shapely.buffer(dense, found.error + steps)) == pytest.approx(0.0, abs=1e-2)


def test_checks_and_the_room_of_a_guard() -> None:
    """The disc of radius 55 lies 5 inside the plate of 120, and 15 from the post, whose edge is 70 from the middle."""
    checks = {"within": {"measure": "swept_inside", "part": "arm", "outline": "frame", "at_least": 4},
              "clear": {"measure": "swept_clear", "part": "arm", "of": "post", "at_least": 14}}  # fmt: skip
    findings = analyse(read_document(arm(360, checks=checks)))
    values = {name: one.value for name, one in findings.verdicts.items()}
    assert values["within"] == pytest.approx(5.0, abs=0.4) and values["within"] <= 5.0
    assert values["clear"] == pytest.approx(15.0, abs=0.4) and values["clear"] <= 15.0
    tree = arm(360, checks=checks)
    tree["parts"]["frame"]["shapes"][0]["size"], tree["parts"]["post"]["pose"] = [100, 120], [60, 0, 0]
    out = {name: one.value for name, one in analyse(read_document(tree)).verdicts.items()}
    assert out["within"] == pytest.approx(-5.0, abs=0.5) and out["clear"] == pytest.approx(-5.0, abs=0.6)
    whole = swept(simulate(read_document(arm(360))), ["arm"])
    assert whole.grown(20.0).area.area == pytest.approx(math.pi * 75**2, rel=5e-3)


def test_the_command_writes_a_drawing_that_is_read_back(tmp_path: Any, capsys: Any) -> None:
    import ezdxf

    path = tmp_path / "arm.anakinema"
    path.write_bytes(dumps(read_document(arm(360))))
    assert main(["swept", str(path), "arm", "--dxf", str(tmp_path / "out.dxf"), "--csv", str(tmp_path / "o.csv")]) == 0
    assert "may be off by" in capsys.readouterr().out
    (line,) = ezdxf.readfile(tmp_path / "out.dxf").modelspace()
    ring = shapely.Polygon([(x, y) for x, y, *_ in line.get_points()])
    assert ring.area == pytest.approx(math.pi * 55**2, rel=2e-3) and line.dxf.layer == "SWEPT"
    assert main(["swept", str(path), "amr"]) == 2 and "did you mean 'arm'" in capsys.readouterr().err
    with pytest.raises(DocumentError, match="no such part"):
        members(read_document(arm(10)), ["arm"], "farme")
