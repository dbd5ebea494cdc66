"""Sides of free outlines as sizes, against plain geometry."""

import cmath

import pytest

from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.operations.sides import side_length, size_of_side, with_side, with_size_of_side

L = [[0, 0], [40, 0], [40, 10], [10, 10], [10, 30], [0, 30]]
HERE = ("parts", "p", "shapes", 0)


def outline(vertices, turn=0.0):
    turned = [[(complex(*each) * cmath.rect(1, turn)).real, (complex(*each) * cmath.rect(1, turn)).imag]
              for each in vertices]  # fmt: skip
    return read_document({"anakinema": 1, "parameters": {"w": "25 mm"},
                          "parts": {"p": {"shapes": [{"kind": "polygon", "vertices": turned if turn else vertices}]}}})


def lengths(document):
    shape = document.parts["p"].shapes[0]
    spots, _ = shape.corners()
    return [abs(spots[(k + 1) % len(spots)] - spots[k]) for k in range(len(spots))]


def after(document, side, length):
    return changed(document, *with_side(document, HERE, document.parts["p"].shapes[0], side, length))


@pytest.mark.parametrize("turn", [0.0, 0.7])
@pytest.mark.parametrize("side", range(6))
@pytest.mark.parametrize("length", [25, "w"])
def test_a_right_angled_outline_stays_one_and_keeps_its_other_sides(turn, side, length):
    document = outline(L, turn)
    new = after(document, side, length)
    before, now = lengths(document), lengths(new)
    assert now[side] == pytest.approx(25, abs=1e-6)
    changes = [k for k in range(6) if k != side and abs(before[k] - now[k]) > 1e-6]
    assert len(changes) == 1 and (changes[0] - side) % 2 == 0  # the one parallel side that takes it up
    spots, _ = new.parts["p"].shapes[0].corners()
    for k in range(6):
        one, two = spots[k] - spots[k - 1], spots[(k + 1) % 6] - spots[k]
        assert abs((one.conjugate() * two).real) < 1e-5
    if length == "w" and not turn:
        assert side_length(new, HERE, new.parts["p"].shapes[0], side) == "w"
        assert lengths(changed(new, *with_parameter("20 mm")))[side] == pytest.approx(20)


def with_parameter(text):
    from anakinema.document import Set

    return (Set(("parameters", "w"), text),)


def test_a_triangle_moves_one_corner_along_its_side():
    new = after(outline([[0, 0], [30, 0], [0, 40]]), 1, "w")
    assert new.parts["p"].shapes[0].corners()[0][2] == pytest.approx(complex(30 - 25 * 0.6, 25 * 0.8))


def test_what_has_no_length_says_so():
    arc = {"kind": "path", "start": [0, 0],
           "segments": [{"to": [20, 0]}, {"to": [20, 10], "center": [20, 5]}, {"to": [0, 10]}]}  # fmt: skip
    document = read_document({"anakinema": 1, "parts": {"p": {"shapes": [arc]}}})
    shape = document.parts["p"].shapes[0]
    assert [side_length(document, HERE, shape, k) for k in range(4)] == [None, None, 20, 10]  # the arc holds the others
    with pytest.raises(DocumentError, match="no length of its own"):
        with_side(document, HERE, shape, 1, 5)
    with pytest.raises(DocumentError, match="longer than zero"):
        after(outline(L), 0, -3)
    with pytest.raises(DocumentError, match="crosses"):
        after(outline(L), 2, 45)
    assert lengths(outline(L)) == pytest.approx([40, 10, 30, 20, 10, 30])


@pytest.mark.parametrize("radius", [7, "w"])
def test_the_radius_of_a_full_circle_of_one_arc(radius):
    ring = {"kind": "path", "start": [0, 10], "segments": [{"to": [0, 10], "center": [0, 0]}]}
    document = read_document({"anakinema": 1, "parameters": {"w": "7 mm"}, "parts": {"p": {"shapes": [ring]}}})
    new = changed(document, *with_size_of_side(document, HERE, document.parts["p"].shapes[0], 0, radius))
    assert new.parts["p"].shapes[0].segments[0].center == pytest.approx((0, 3))
    assert size_of_side(new, HERE, new.parts["p"].shapes[0], 0) == radius
