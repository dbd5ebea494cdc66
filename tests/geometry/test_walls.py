"""Wall thickness against closed forms; cuts through outlines; areas as polygons."""

import math

import numpy as np
import pytest
import shapely

from anakinema.geometry.areas import polygon_of
from anakinema.geometry.cutting import spans_along
from anakinema.geometry.outline import region
from anakinema.geometry.shapes import Bar, Disc, Polygon, Rectangle, Shape
from anakinema.geometry.walls import thinnest


def hole(x: float, y: float, diameter: float) -> Disc:
    return Disc(center=(x, y), diameter=diameter, cut=True)


PLATE = Rectangle(center=(0, 0), size=(40, 20))
WALLS: dict[str, tuple[tuple[Shape, ...], float]] = {
    "a plate": ((PLATE,), 20.0),
    "a ring off its middle": ((Disc(center=(0, 0), diameter=20), hole(2, 1, 12)), 10 - 6 - math.hypot(2, 1)),
    "a ring": ((Disc(center=(0, 0), diameter=20), hole(0, 0, 12)), 4.0),
    "a hole by an edge": ((PLATE, hole(0, 6, 5)), 10 - 6 - 2.5),
    "two holes": ((PLATE, hole(-5, 0, 6), hole(4, 0, 8)), 9 - 3 - 4),
    "a corner of a hole": ((PLATE, Rectangle(center=(16, 0), size=(4, 4), angle=math.pi / 4, cut=True)),
                           4 - 2 * 2**0.5),
    "a taper": ((Polygon(vertices=((0, -5), (30, -1), (30, 1), (0, 5))),), 2.0),
    "a bar": ((Bar(through=((0, 0), (30, 0)), width=8),), 8.0),
    "a bar about a hole": ((Bar(through=((0, 0), (30, 0)), width=8), hole(0, 0, 5)), 1.5),
    "rounded corners": ((Rectangle(center=(0, 0), size=(40, 20), corner_radius=3),), 20.0),
}  # fmt: skip


@pytest.mark.parametrize("name", WALLS)
def test_the_thinnest_wall_is_that_of_the_closed_form(name: str) -> None:
    shapes, wall = WALLS[name]
    for size in (1.0, 1e-2, 1e3):  # at any scale
        found = thinnest(region(tuple(scaled(shape, size) for shape in shapes)), 25.0 * size)
        assert found is not None and found.thickness == pytest.approx(wall * size, rel=1e-6)
        assert abs(found.two - found.one) == pytest.approx(found.thickness)
    assert thinnest(region(shapes), wall * 0.999) is None


def scaled(shape: Shape, by: float) -> Shape:
    from dataclasses import replace

    if isinstance(shape, Disc):
        x, y = shape.center
        return replace(shape, center=(x * by, y * by), diameter=shape.diameter * by)
    if isinstance(shape, Rectangle):
        (x, y), (wide, high) = shape.center, shape.size
        return replace(shape, center=(x * by, y * by), corner_radius=shape.corner_radius * by,
                       size=(wide * by, high * by))  # fmt: skip
    if isinstance(shape, Bar):
        return replace(shape, through=tuple((x * by, y * by) for x, y in shape.through), width=shape.width * by)
    assert isinstance(shape, Polygon)
    return replace(shape, vertices=tuple((x * by, y * by) for x, y in shape.vertices))


def test_a_line_cuts_a_plate_with_a_hole_in_two() -> None:
    made = region((PLATE, hole(5, 0, 8)))
    assert np.ravel(spans_along(made.edges, 0j, 1 + 0j)) == pytest.approx([-20, 1, 9, 20])
    turned = np.exp(0.3j)
    (one,) = spans_along(made.edges, -10 + 0j, complex(1j * turned))
    assert one == pytest.approx((-10 / math.cos(0.3), 10 / math.cos(0.3)))
    assert spans_along(made.edges, 30j, 1 + 0j) == []


@pytest.mark.parametrize("outside", [False, True])
def test_a_polygon_is_off_by_its_tolerance_at_most(outside: bool) -> None:
    made = region((Disc(center=(1, 2), diameter=20), hole(3, 2, 6)))
    found = polygon_of(made, 0.01, outside)
    exact = shapely.Point(1, 2).buffer(10, quad_segs=4000) - shapely.Point(3, 2).buffer(3, quad_segs=4000)
    assert shapely.hausdorff_distance(found.exterior, exact.exterior) < 0.0101
    if outside:
        assert shapely.area(exact - found) < 1e-4
    assert found.area == pytest.approx(math.pi * (100 - 9), abs=2 * math.pi * 13 * 0.01)
