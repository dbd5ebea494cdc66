"""Outlines and distances: exact lines and arcs against a general geometry library and against closed forms."""

import math

import numpy as np
import pytest

from anakinema.document import read_document
from anakinema.geometry.outline import Region, region
from outlines import polygon


def made(*shapes, points=None) -> Region:
    document = read_document({"anakinema": 1, "parts": {"p": {"points": points or {}, "shapes": list(shapes)}}})
    return region(document.parts["p"].shapes)


def area(found: Region) -> float:
    """Exact area: chords and circular segments."""
    edges = found.edges
    chords = float((edges.start.conj() * edges.end).imag.sum()) / 2
    return chords + float((edges.radius**2 * (edges.sweep - np.sin(edges.sweep))).sum()) / 2


SHAPES = [
    ({"kind": "disc", "center": [3, 4], "diameter": 10}, 25 * math.pi),
    ({"kind": "bar", "through": [[0, 0], [30, 40]], "width": 8}, 50 * 8 + 16 * math.pi),
    ({"kind": "rectangle", "center": [1, 2], "size": [10, 4], "angle": 30}, 40.0),
    ({"kind": "rectangle", "center": [0, 0], "size": [10, 4], "corner_radius": 1}, 40 - (4 - math.pi)),
    ({"kind": "polygon", "vertices": [[0, 0], [0, 3], [4, 0]]}, 6.0),
    (
        {"kind": "slot", "center": [0, 0], "radius": 20, "from": 10, "to": 70, "width": 6},
        math.radians(60) * 20 * 6 + 9 * math.pi,
    ),
    ({"kind": "path", "start": [1, 0], "segments": [{"to": [-1, 0], "center": [0, 0]}, {"to": [1, 0]}]}, math.pi / 2),
    ({"kind": "path", "start": [2, 0], "segments": [{"to": [2, 0], "center": [0, 0], "ccw": False}]}, -4 * math.pi),
]


@pytest.mark.parametrize(("shape", "wanted"), SHAPES, ids=[f"{s['kind']}{i}" for i, (s, _) in enumerate(SHAPES)])
def test_areas_are_exact(shape, wanted):
    assert abs(area(made(shape))) == pytest.approx(abs(wanted), rel=1e-9)


def test_shapes_are_joined_and_cut_with_arcs_kept():
    plate = made(
        {"kind": "rectangle", "center": [0, 0], "size": [20, 20]},
        {"kind": "disc", "center": [10, 0], "diameter": 10},
        {"kind": "disc", "center": [0, 0], "diameter": 8, "cut": True},
    )
    assert area(plate) == pytest.approx(400 + 12.5 * math.pi - 16 * math.pi, rel=1e-9)
    assert len(plate.loops) == 2
    assert sorted(set(np.round(plate.edges.radius[plate.edges.is_arc], 9))) == [4.0, 5.0]
    assert polygon(plate, 1024).area == pytest.approx(area(plate), rel=1e-4)


def test_touching_shapes_join_without_a_seam():
    """Two halves of a square share an edge; a bar's end circle meets a disc of the same size."""
    halves = made(
        {"kind": "rectangle", "center": [-5, 0], "size": [10, 20]},
        {"kind": "rectangle", "center": [5, 0], "size": [10, 20]},
    )
    assert area(halves) == pytest.approx(400, rel=1e-9) and len(halves.loops) == 1
    lever = made(
        {"kind": "bar", "through": [[0, 0], [20, 0]], "width": 8}, {"kind": "disc", "center": [20, 0], "diameter": 8}
    )
    assert area(lever) == pytest.approx(160 + 16 * math.pi, rel=1e-9) and len(lever.loops) == 1


def test_depths_make_slabs():
    tree = {
        "anakinema": 1,
        "parts": {
            "stack": {
                "depth": [0, 4],
                "shapes": [
                    {"kind": "disc", "center": [0, 0], "diameter": 10},
                    {"kind": "disc", "center": [0, 0], "diameter": 4, "depth": [-2, 6]},
                ],
            }
        },
    }
    found = read_document(tree).parts["stack"].slabs
    assert [(slab.low, slab.high) for slab in found] == [(-2, 0), (0, 4), (4, 6)]
    assert [round(area(slab.region) / math.pi) for slab in found] == [4, 25, 4]


def test_every_edge_knows_where_it_came_from_and_circles_are_whole():
    """A plate with a boss over its side and a hole: the hole is one edge again, the boss one arc."""
    plate = made(
        {"kind": "rectangle", "center": [0, 0], "size": [20, 20]},
        {"kind": "disc", "center": [10, 0], "diameter": 10},
        {"kind": "disc", "center": [0, 0], "diameter": 8, "cut": True},
    )
    edges = plate.edges
    assert sorted(edges.sweep[edges.is_arc].round(9)) == [round(-math.tau, 9), round(math.pi, 9)]
    assert set(zip(edges.shape.tolist(), edges.feature.tolist(), strict=True)) == {
        (0, 0), (0, 1), (0, 2), (0, 3), (1, 0), (2, 0)
    }
    side = (edges.shape == 0) & (edges.feature == 1)  # cut in two by the boss
    assert side.sum() == 2 and np.abs(edges.start[side].imag).max() == 10
