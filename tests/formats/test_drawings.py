"""Outlines in and out: DXF by ezdxf, SVG by svgelements; what is damaged is refused, what is open is healed or told."""

import io
import math

import ezdxf
import pytest

from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.formats import project
from anakinema.formats.drawings import chained, nested, read_drawing, write_drawing
from anakinema.formats.drawings.dxf import read_dxf
from anakinema.formats.drawings.svg import read_svg
from anakinema.geometry.drawn import DrawnPiece
from anakinema.operations.importing import add_outlines, outlines_of

EMPTY = read_document({"anakinema": 1})


def outlines(drawing, tolerance=1e-6):
    return [one for layer, pieces in drawing.layers.items() for one in nested(chained(layer, pieces, tolerance)[0])]


def covered(outline):
    return abs(outline.area) - sum(abs(cut.area) for cut in outline.cuts)


@pytest.mark.parametrize("ending", [".dxf", ".svg"])
@pytest.mark.parametrize("name", list(project.EXAMPLES))
def test_every_example_comes_back_by_area_and_vertices(tmp_path, name, ending):
    document, _ = project.example(name)
    poses = {part.id: part.pose for part in document.parts.values()}
    given = outlines_of(document, poses, document.parts)
    path = tmp_path / f"all{ending}"
    write_drawing(path, given, document.units.length)
    drawing = read_drawing(path)
    assert drawing.unit == "mm"
    back = outlines(drawing)
    assert sorted(map(covered, back)) == pytest.approx(sorted(map(covered, given)), rel=1e-6)
    corners = {(outline.layer, round(p.start.real, 4), round(p.start.imag, 4)) for outline in given
               for p in outline.pieces if outline.circle is None}  # fmt: skip
    found = {(outline.layer, round(p.start.real, 4), round(p.start.imag, 4)) for outline in back
             for p in outline.pieces if outline.circle is None}  # fmt: skip
    assert corners <= found
    made = changed(EMPTY, *add_outlines(EMPTY, back).changes)
    again = outlines_of(made, {part.id: part.pose for part in made.parts.values()}, made.parts)
    assert sum(map(covered, again)) == pytest.approx(sum(map(covered, given)), rel=1e-6)


def dxf(draw):
    document = ezdxf.new("R2010")
    document.units = ezdxf.units.IN
    draw(document.modelspace(), document)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode()


def test_dxf_lines_arcs_bulges_blocks_and_curves():
    def draw(space, document):
        space.add_lwpolyline([(0, 0, 0), (10, 0, 1), (10, 5, 0), (0, 5, 0)], format="xyb", close=True,
                             dxfattribs={"layer": "plate"})  # fmt: skip
        space.add_circle((3, 2.5), 1, dxfattribs={"layer": "plate"})
        block = document.blocks.new("pin")
        block.add_circle((0, 0), 0.5)
        space.add_blockref("pin", (50, 50))
        space.add_ellipse((80, 0), (4, 0), 0.5)
        space.add_text("note")
        for angle in (0, 90, 180, 270):
            space.add_arc((100, 0), 3, angle, angle + 90, dxfattribs={"layer": "ring"})

    drawing = read_dxf(dxf(draw))
    assert drawing.unit == "in"
    found = {outline.layer: outline for outline in outlines(drawing)}
    assert covered(found["plate"]) == pytest.approx(50 + math.pi * 2.5**2 / 2 - math.pi)
    assert len(found["plate"].pieces) == 4  # the arc stayed an arc
    assert covered(found["ring"]) == pytest.approx(9 * math.pi)
    assert found["ring"].circle == (pytest.approx(100), pytest.approx(3))
    areas = sorted(covered(one) for one in outlines(drawing) if one.layer == "0")
    assert areas == pytest.approx([math.pi * 0.25, math.pi * 4 * 2], rel=2e-3)
    assert "1 curves that are no arcs" in " ".join(drawing.report)
    assert "1 text" in " ".join(drawing.report)


def test_svg_in_millimetres_with_its_y_axis_upward():
    text = """<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="50mm" viewBox="0 0 100 50">
    <g id="link"><rect x="10" y="10" width="40" height="20"/><circle cx="20" cy="20" r="4"/></g>
    <g id="eye"><path d="M 70 20 A 5 5 0 1 1 80 20 A 5 5 0 1 1 70 20 Z"/></g>
    <path d="M 0 0 C 10 0 10 10 0 10 Z"/></svg>"""
    drawing = read_svg(text.encode())
    found = {outline.layer: outline for outline in outlines(drawing)}
    assert covered(found["link"]) == pytest.approx(800 - 16 * math.pi, rel=1e-6)
    assert found["link"].cuts[0].circle[0] == pytest.approx(20 - 20j)
    assert found["eye"].circle[1] == pytest.approx(5)
    assert "1 curves" in drawing.report[0]


def test_gaps_are_healed_within_a_tolerance_and_what_is_open_is_told():
    square = [
        DrawnPiece(0j, 10.001 + 0j),
        DrawnPiece(10 + 0j, 10 + 10j),
        DrawnPiece(10j, 9.999 + 10j),
        DrawnPiece(10.0005j, 0j),
    ]
    (found,), report = chained("a", square, 0.01)
    assert covered(found) == pytest.approx(100, abs=0.05)
    after = [*found.pieces[1:], found.pieces[0]]
    assert all(one.end == two.start for one, two in zip(found.pieces, after, strict=True))
    assert report == ["3 gaps healed within 0.01"]
    none, report = chained("a", square, 1e-5)
    assert not none
    assert "left out, whose ends are further apart" in report[0]
    half = [DrawnPiece(10 + 0j, -10 + 0j, 0j), DrawnPiece(-10.001 + 0j, 9.999 + 0j)]
    (found,), _ = chained("a", half, 0.01)
    assert covered(found) == pytest.approx(50 * math.pi, rel=1e-3)


def test_what_lies_in_a_cut_is_a_part_again():
    rings = [DrawnPiece(radius + 0j, radius + 0j, 0j) for radius in (10.0, 6.0, 3.0)]
    outer, inner = nested(chained("a", rings, 1e-6)[0])
    assert [len(outer.cuts), len(inner.cuts)] == [1, 0]
    made = changed(EMPTY, *add_outlines(EMPTY, [outer, inner], {"a": "ring"}).changes)
    assert list(made.parts) == ["ring", "ring2"]
    assert made.parts["ring"].fixed
    assert made.parts["ring"].points["A"] == (0, 0)


BAD = [
    (".dxf", b"", "can be read"), (".dxf", b"\x00\x01\x02nonsense", "can be read"), (".dxf", b"0\nSECTION\n2\n", None),
    (".svg", b"", "no SVG file"), (".svg", b"<svg", "no SVG file"), (".svg", b"\xff\xfe\x00", "is not UTF-8"),
    (".svg", b'<!DOCTYPE svg [<!ENTITY a "b">]><svg/>', "declares entities"), (".png", b"x", "no kind of drawing"),
]  # fmt: skip


@pytest.mark.parametrize(("ending", "data", "message"), BAD, ids=range(len(BAD)))
def test_damaged_files_are_refused_in_words_or_hold_nothing(tmp_path, ending, data, message):
    path = tmp_path / f"file{ending}"
    path.write_bytes(data)
    if message is None:
        assert not outlines(read_drawing(path))
        return
    with pytest.raises(DocumentError, match=message):
        read_drawing(path)
    with pytest.raises(DocumentError, match="no closed outline was chosen"):
        add_outlines(EMPTY, [])


def test_mutants_of_good_drawings_never_end_in_a_traceback(tmp_path):
    import random

    document, _ = project.example("folder-drive")
    given = outlines_of(document, {part.id: part.pose for part in document.parts.values()}, document.parts)
    chance = random.Random(4)
    for ending in (".dxf", ".svg"):
        path = tmp_path / f"file{ending}"
        write_drawing(path, given, "mm")
        good = path.read_bytes()
        for _ in range(25):
            data = bytearray(good)
            for _ in range(chance.randint(1, 30)):
                at = chance.randrange(len(data))
                data[at : at + chance.randint(0, 6)] = bytes(chance.choice(b"0123456789.-eMLAZ<>\n ") for _ in range(3))
            path.write_bytes(bytes(data))
            try:
                found = outlines(read_drawing(path))
                if found:
                    changed(EMPTY, *add_outlines(EMPTY, found).changes)
            except DocumentError as error:
                assert error.faults
