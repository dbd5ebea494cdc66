"""Outlines and distances: exact lines and arcs against a general geometry library and against closed forms."""

import math
import random

import numpy as np
import pytest
import shapely

from anakinema.document import read_document
from anakinema.errors import DocumentError
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


def scattered(chance: random.Random, count: int, far: float, size: float, **more) -> list[dict]:
    """Discs and turned rectangles here and there."""
    number = lambda high: round(chance.uniform(-high, high), 3)  # noqa: E731
    found = []
    for _ in range(count):
        center, across = [number(far), number(far)], round(chance.uniform(0.3, 1.0) * size, 3)
        if chance.random() < 0.5:
            found.append({"kind": "disc", "center": center, "diameter": across, **more})
        else:
            found.append({"kind": "rectangle", "center": center, "size": [across, size / 3], "angle": number(90),
                          "corner_radius": chance.choice((0, size / 20)), **more})  # fmt: skip
    return found


@pytest.mark.parametrize("seed", range(12))
def test_many_shapes_agree_with_a_geometry_library(seed):
    """Sparse, dense, and with cuts, islands in them too: area and number of rings."""
    chance = random.Random(seed)
    shapes = scattered(chance, 40, 60, 4 + 6 * (seed % 4)) + scattered(chance, 25, 60, 9, cut=True)
    found = made(*shapes)
    each = [(polygon(made({key: value for key, value in shape.items() if key != "cut"}), 2048), "cut" in shape)
            for shape in shapes]  # fmt: skip
    solid, cut = (shapely.union_all([one for one, is_cut in each if is_cut == which]) for which in (False, True))
    wanted = shapely.difference(solid, cut)
    assert area(found) == pytest.approx(wanted.area, rel=2e-5)
    wide = [one for one in shapely.get_parts(wanted) if one.area > 1e-3]
    assert sum(len(one.interiors) + 1 for one in wide) == sum(
        abs(area(Region(found.edges.pick(loop), (), ()))) > 1e-3 for loop in found.loops
    )


def plate_of(holes: int) -> list[dict]:
    side = math.isqrt(holes - 1) + 1
    plate = {"kind": "rectangle", "center": [5 * side, 5 * side], "size": [10 * side + 10, 10 * side + 10]}
    return [plate, *({"kind": "disc", "center": [10 * (k % side) + 5, 10 * (k // side) + 5], "diameter": 6, "cut": True}
                     for k in range(holes))]  # fmt: skip


def test_a_sieve_is_joined_hole_by_hole():
    sieve = made(*plate_of(1024))
    assert len(sieve.loops) == 1025
    assert area(sieve) == pytest.approx(330**2 - 1024 * 9 * math.pi, rel=1e-9)


def test_rings_within_rings():
    rings = made(*({"kind": "disc", "center": [0, 0], "diameter": 400 - 4 * k, "cut": k % 2 == 1} for k in range(2)),
                 {"kind": "disc", "center": [50, 0], "diameter": 40})  # fmt: skip
    assert area(rings) == pytest.approx(math.pi * (200**2 - 198**2), rel=1e-9)  # a cut takes from all that is there


HOPELESS = {
    "on each other": [{"kind": "disc", "center": [k % 7, k % 11], "diameter": 90} for k in range(900)],
    "across each other": [{"kind": "bar", "through": [[math.cos(9.1 * k) * 500, math.sin(7.3 * k) * 500]
                           for k in range(700)], "width": 5}],
    "at many depths": [{"kind": "disc", "center": [k % 7, 0], "diameter": 30, "depth": [k, k + 300]}
                       for k in range(300)],
    "too many": [{"kind": "disc", "center": [10 * k, 0], "diameter": 6} for k in range(12_000)],
}  # fmt: skip


@pytest.mark.parametrize("shapes", HOPELESS.values(), ids=HOPELESS)
def test_what_would_take_too_long_is_refused_where_it_stands(shapes):
    parts = {"small": {"shapes": [{"kind": "disc", "center": [0, 0], "diameter": 5}]}, "large": {"shapes": shapes}}
    with pytest.raises(DocumentError, match=r"parts\.large\.shapes: joining these outlines would take too long"):
        read_document({"anakinema": 1, "parts": parts})


def test_what_all_parts_take_is_added_up():
    def parts(count: int) -> dict:
        return {f"p{k}": {"shapes": plate_of(900 + k)} for k in range(count)}

    assert read_document({"anakinema": 1, "parts": parts(8)})
    with pytest.raises(DocumentError, match=r"parts\.p\d+\.shapes: joining"):
        read_document({"anakinema": 1, "parts": parts(14)})
