"""The files of a cam for the workshop, read back by others."""

import csv
import io
import math
import re

import ezdxf
import numpy as np
import pytest
import shapely

from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.formats.cam_files import cam_drawing, cam_dxf, cam_pdf, cam_svg, cam_table
from anakinema.formats.drawings.bounded import read_within
from cams import cam, geometry


def area(made):
    """Of the polygon through an exact envelope."""
    points = made.course(np.linspace(*made.range, 40001)).profile
    return shapely.Polygon(np.stack((points.real, points.imag), axis=1)).area


@pytest.mark.parametrize("follower", [{"kind": "roller", "radius": 6}, {"kind": "flat", "direction": 0}])
def test_dxf_comes_back_with_the_same_area(tmp_path, follower):
    tree = cam(follower, at=36)
    document = read_document(tree)
    path = tmp_path / "cam.dxf"
    path.write_bytes(cam_dxf(cam_drawing(document, "ride")))
    (line,) = ezdxf.readfile(path).modelspace().query("LWPOLYLINE")
    assert line.closed and line.dxf.layer == "PROFILE"
    points = np.array([(p.x, p.y) for p in ezdxf.path.make_path(line).flattening(1e-7)])
    assert shapely.Polygon(points).area == pytest.approx(area(geometry(tree)), rel=4e-6)
    assert read_within(path).unit == "mm"


def test_true_size_in_inches_and_over_several_sheets():
    tree = cam(at=300)
    document = read_document(tree)
    pages = cam_pdf(cam_drawing(document, "ride"))
    assert pages.startswith(b"%PDF") and len(re.findall(rb"/Type /Page\b", pages)) == 4 * 3
    svg = cam_svg(cam_drawing(document, "ride")).decode()
    wide = float(re.search(r'width="([\d.]+)mm"', svg)[1])
    points = geometry(tree).course(np.linspace(0, 2 * math.pi, 7201)).profile
    assert wide == pytest.approx(np.ptp(points.real) + 24, abs=0.05)  # by the corners of its arcs
    with pytest.raises(DocumentError, match="100 at most are printed"):
        cam_pdf(cam_drawing(read_document(cam(at=3000)), "ride"))


def test_a_table_holds_what_the_course_is():
    document = read_document(cam())
    rows = list(csv.reader(io.StringIO(cam_table(document, "ride", 36))))
    assert rows[0] == ["angle", "x", "y", "radius", "curvature", "pressure_angle"] and len(rows) == 37
    for row in rows[1:]:
        x, y, radius = map(float, row[1:4])
        assert math.hypot(x, y) == pytest.approx(radius)
    assert float(rows[-1][0]) == 350
    rising = [float(row[5]) for row in rows[1:] if 0 < float(row[0]) < 90]
    assert min(rising) > 0


def test_a_cutter_is_offset_and_refused_where_it_would_gouge():
    rise = [{"over": "60 deg", "to": "20 mm", "law": "cycloidal"}, {"over": "60 deg", "to": 0, "law": "cycloidal"}]
    tree = cam(segments=rise, at=60)
    document, found = read_document(tree), geometry(tree)
    from anakinema.cams.judgement import judged

    hollow = judged(found).hollow.value
    made = cam_drawing(document, "ride", cutter=hollow * 0.9).outlines[0]
    path = np.array([piece.start for piece in made.pieces])
    exact = found.course(np.linspace(*found.range, 40001)).profile
    ring = shapely.LinearRing(np.stack((exact.real, exact.imag), axis=1))
    gaps = [ring.distance(shapely.Point(z.real, z.imag)) for z in path[::7]]
    assert np.array(gaps) == pytest.approx(hollow * 0.9, abs=2e-4)
    with pytest.raises(DocumentError, match=r"gouges at .*hollow with radius"):
        cam_drawing(document, "ride", cutter=hollow * 1.01)


def test_a_groove_has_two_sides_and_an_undercut_cam_none():
    shape = {"kind": "cam", "joint": "ride", "groove": True, "cut": True}
    document = read_document(cam(shape=shape))
    assert len(cam_drawing(document, "ride", cutter=5.9).outlines) == 2
    with pytest.raises(DocumentError, match="wider than the groove"):
        cam_drawing(document, "ride", cutter=6.5)
    with pytest.raises(DocumentError, match="is undercut from"):
        cam_drawing(read_document(cam({"kind": "roller", "radius": 29})), "ride")
    with pytest.raises(DocumentError, match="the cams of this document are 'ride'"):
        cam_drawing(document, "lift")
