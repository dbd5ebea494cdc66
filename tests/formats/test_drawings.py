"""Outlines in and out: DXF by ezdxf, SVG by svgelements; what is damaged is refused, what is open is healed or told."""

import io
import math
import time

import ezdxf
import pytest

from anakinema.cancellation import CancellationToken, Cancelled
from anakinema.cli import main
from anakinema.document import changed, read_document
from anakinema.errors import DocumentError
from anakinema.formats import project
from anakinema.formats.drawings import bounded, chained, nested, read_drawing, write_drawing
from anakinema.formats.drawings.dxf import read_dxf
from anakinema.formats.drawings.svg import read_svg
from anakinema.geometry.drawn import Chosen, Drawing, DrawnPiece, outlined
from anakinema.operations.importing import add_outlines, outlines_of
from patience import patient

EMPTY = read_document({"anakinema": 1})


def outlines(drawing, tolerance=1e-6):
    every = (chained(layer, pieces, tolerance).outlines for layer, pieces in drawing.layers.items())
    return [one for found in every for one in nested(found)]


def covered(outline):
    return abs(outline.area) - sum(abs(cut.area) for cut in outline.cuts)


TOO_FINE = {"planetary-reel"}
"""Teeth of 15,000 arcs, which take a minute to join."""


@pytest.mark.parametrize("ending", [".dxf", ".svg"])
@pytest.mark.parametrize("name", [name for name in project.EXAMPLES if name not in TOO_FINE])
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
    chains = chained("a", square, 0.01)
    (found,) = chains.outlines
    assert covered(found) == pytest.approx(100, abs=0.05)
    after = [*found.pieces[1:], found.pieces[0]]
    assert all(one.end == two.start for one, two in zip(found.pieces, after, strict=True))
    assert chains.healed == 3 and not chains.open
    told = outlined(Drawing({"a": square}), Chosen(1.0, 1e-5, ("a",)))
    assert not told.outlines and [abs(two - one) for one, two in told.gaps] == pytest.approx([5e-4, 1e-3, 1e-3])
    wide = "open at (0, 10.001), 0.0005 wide; at (10.001, 0), 0.001"
    assert told.remarks[0].startswith(f"a: 3 open chains left out: {wide}")
    half = [DrawnPiece(10 + 0j, -10 + 0j, 0j), DrawnPiece(-10.001 + 0j, 9.999 + 0j)]
    (found,) = chained("a", half, 0.01).outlines
    assert covered(found) == pytest.approx(50 * math.pi, rel=1e-3)


def test_what_lies_in_a_cut_is_a_part_again():
    rings = [DrawnPiece(radius + 0j, radius + 0j, 0j) for radius in (10.0, 6.0, 3.0)]
    outer, inner = nested(chained("a", rings, 1e-6).outlines)
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


# -- all comes, or it is told what not -----------------------------------------------------------------------------

HEAD = ('<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="100mm" '
        'height="100mm" viewBox="0 0 100 100">')  # fmt: skip
SQUARE = '<rect width="3" height="4"/>'


def svg(body):
    return read_svg(f"{HEAD}{body}</svg>".encode())


def extent(drawing):
    spots = [z for pieces in drawing.layers.values() for piece in pieces for z in (piece.start, piece.end)]
    return [round(each, 9) for each in (min(z.real for z in spots), min(z.imag for z in spots),
                                        max(z.real for z in spots), max(z.imag for z in spots))]  # fmt: skip


@pytest.mark.parametrize(("body", "box"), [
    (f'<g transform="translate(10,0)"><g transform="scale(2)">{SQUARE}</g></g>', [10, -8, 16, 0]),
    (f'<defs><g id="r">{SQUARE}</g></defs><use href="#r" x="5" y="6" transform="translate(10)"/>', [15, -10, 18, -6]),
    ('<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol>'
     '<use xlink:href="#s" x="20" y="20" width="40" height="40"/>', [20, -60, 60, -20]),
    (f'<svg x="50" y="50" width="30" height="40" viewBox="0 0 3 4">{SQUARE}</svg>', [50, -90, 80, -50]),
    ('<line x1="1mm" y1="2mm" x2="3mm" y2="4mm"/>', [25.4 / 25.4 / 25.4 * 96, 0, 0, 0]),
])  # fmt: skip
def test_uses_symbols_and_drawings_within_drawings_stand_where_they_are_shown(body, box):
    found = svg(body)
    if "line" in body:  # a millimetre is one of the page's pixels, as many as CSS has it
        box = [round(96 / 25.4 * k, 9) for k in (1, -4, 3, -2)]
    assert extent(found) == pytest.approx(box) and found.complete


@pytest.mark.parametrize(("body", "told"), [
    ("<text>words</text>", "1 text"), ("<image/>", "1 image"),
    (f'<g style="display:none">{SQUARE}</g>', "not displayed"),
    (f"<style>.off {{ display: none }}</style><g class='off'>{SQUARE}</g>", "not displayed"),
    (f'<g visibility="hidden">{SQUARE}</g>', "1 rect that is hidden"), ('<path d="M0 0 L banana"/>', "1 faulty path"),
    (f'<g clip-path="url(#c)">{SQUARE}</g>', "clip path (what it covers came whole)"),
    (f'<g mask="url(#m)">{SQUARE}</g>', "mask (what it covers came whole)"), ('<use href="#none"/>', "not there"),
    ('<g id="x"><use href="#x"/></g>', "use of itself"), ('<rect width="0" height="4"/>', "rect of no size"),
    (f'<g transform="bend(3)">{SQUARE}</g>', ""),
])  # fmt: skip
def test_what_of_an_svg_does_not_come_is_told_and_the_rest_comes(body, told):
    found = svg(f'{body}<circle cx="50" cy="50" r="5"/>')
    assert any(piece.center == 50 - 50j for pieces in found.layers.values() for piece in pieces)
    assert told in "".join(found.report) and found.complete == (not told)


@pytest.mark.parametrize("unseen", ["defs", "clipPath", "mask", "pattern", "symbol", "marker"])
def test_what_an_svg_only_defines_is_not_brought(unseen):
    assert not svg(f"<{unseen}>{SQUARE}</{unseen}>").layers


def test_blocks_arrays_and_feet_come_and_what_is_off_is_told():
    def draw(space, document):
        block = document.blocks.new("pin")
        block.add_circle((0, 0), 1)
        space.add_blockref("pin", (0, 0), dxfattribs={"row_count": 3, "column_count": 4, "row_spacing": 5,
                                                      "column_spacing": 7})  # fmt: skip
        document.layers.add("quiet").off()
        space.add_circle((90, 90), 2, dxfattribs={"layer": "quiet"})
        space.add_circle((90, 90), 3, dxfattribs={"invisible": 1})
        space.add_text("words")
        document.units = ezdxf.units.FT

    found = read_dxf(dxf(draw))
    centers = {piece.center / 12 for pieces in found.layers.values() for piece in pieces}
    assert centers == {complex(7 * k, 5 * j) for k in range(4) for j in range(3)} and found.unit == "in"
    assert not found.complete
    for word in ("1 circle of layer 'quiet', which is off", "1 circle hidden", "1 text"):
        assert word in found.report[-1]


def test_binary_files_and_damaged_ones_are_read_and_what_was_mended_is_told(tmp_path):
    data = dxf(lambda space, _: [space.add_circle((k, 0), 1) for k in range(5)])
    document = ezdxf.read(io.StringIO(data.decode()))
    document.saveas(tmp_path / "binary.dxf", fmt="bin")
    whole, binary = read_dxf(data), read_drawing(tmp_path / "binary.dxf")
    assert binary.layers == whole.layers and binary.complete and whole.complete
    damaged = data.replace(b"CIRCLE\n  5\n", b"CIRCLE\n  5\nnonsense", 1)
    found = read_dxf(damaged[: damaged.rindex(b"ENDSEC")])
    assert found.layers and not found.complete and "mended" in found.report[0]


def test_a_hole_of_an_open_contour_becomes_no_part():
    body = ('<path d="M0 0 H50 V50 H0 V0.5"/><circle cx="20" cy="20" r="5"/><circle cx="80" cy="80" r="5"/>')
    drawing = svg(body)
    found = outlined(drawing, Chosen(1.0, 1e-3, tuple(drawing.layers)))
    assert [outline.circle[0] for outline in found.outlines] == [80 - 80j]
    assert {*found.gaps[0]} == {-0.5j, 0j} and len(found.gaps) == 1 and "0.5 wide" in found.remarks[0]
    assert "1 outline left out, which may be holes of what is open around" in found.remarks[1]
    healed = outlined(drawing, Chosen(1.0, 0.6, tuple(drawing.layers)))
    assert sorted(len(outline.cuts) for outline in healed.outlines) == [0, 1] and not healed.gaps


def nest(space, document, held):
    for level in range(30):
        block = document.blocks.new(f"level{level}")
        if level == 0 and held:
            block.add_circle((0, 0), 1)
        for k in range(4 if level else 0):
            block.add_blockref(f"level{level - 1}", (3 * k, 0))
    space.add_blockref("level29", (0, 0))


HOSTILE = {
    "nested.dxf": lambda: dxf(lambda space, document: nest(space, document, True)),
    "nothing.dxf": lambda: dxf(lambda space, document: nest(space, document, False)),
    "array.dxf": lambda: dxf(lambda space, document: [
        document.blocks.new("a").add_circle((0, 0), 1),
        space.add_blockref("a", (0, 0), dxfattribs={"row_count": 30000, "column_count": 30000,
                                                      "row_spacing": 5, "column_spacing": 5})]),
    "uses.svg": lambda: (HEAD + "".join(
        f'<g id="u{k}">' + (f'<use href="#u{k - 1}"/>' * 8 if k else SQUARE) + "</g>" for k in range(12))
        + "</svg>").encode(),
    "head.svg": lambda: b"<svg " + b" width" * 200_000,
    "entities.svg": lambda: b'<!DOCTYPE svg [<!ENTITY a "aaaa">]><svg/>',
    "cut.svg": lambda: (HEAD + SQUARE + "<rect wid").encode(),
}  # fmt: skip
"""Small files that say enormous things, and broken ones."""


@pytest.mark.parametrize("name", HOSTILE)
def test_a_small_file_that_says_enormous_things_is_refused_within_its_budget(tmp_path, monkeypatch, capsys, name):
    path = tmp_path / name
    path.write_bytes(HOSTILE[name]())
    monkeypatch.setattr(bounded, "SECONDS", 2)
    assert main(["import", str(path), str(tmp_path / "out.anakinema")]) == 2
    told = capsys.readouterr().err
    assert told.startswith(f"{path}: ") and told.count("\n") == 1 and not (tmp_path / "out.anakinema").exists()


def test_a_reader_ends_with_who_calls_it_off(tmp_path):
    path = tmp_path / "nested.dxf"
    path.write_bytes(HOSTILE["nested.dxf"]())
    started = time.monotonic()
    with pytest.raises(Cancelled):
        bounded.read_within(path, CancellationToken(lambda: time.monotonic() < started + 0.5))
    assert time.monotonic() - started < patient(10)


def test_import_makes_the_parts_that_the_dialog_makes(tmp_path, capsys):
    """A part of each outermost outline, its holes cut; the code tells whether all came."""
    path, out = tmp_path / "plates.svg", tmp_path / "out.anakinema"
    plate = '<g id="{}"><rect x="{}" width="20" height="10"/><circle cx="{}" cy="5" r="2"/></g>'
    path.write_text(f'{HEAD}{plate.format("base", 0, 10)}{plate.format("arm", 30, 40)}</svg>')
    assert main(["import", str(path), str(out)]) == 0
    made, _ = project.load(out)
    assert list(made.parts) == ["base", "arm"] and made.units.length == "mm" and made.parts["base"].fixed
    assert [shape.cut for shape in made.parts["arm"].shapes] == [False, True]
    assert main(["import", str(path), str(out), "--layer", "arm", "--unit", "in"]) == 0
    made, _ = project.load(out)
    assert list(made.parts) == ["arm"] and made.units.length == "in"
    capsys.readouterr()
    path.write_text(f'{HEAD}{plate.format("base", 0, 10)}<text>words</text></svg>')
    assert main(["import", str(path), str(out)]) == 1
    assert capsys.readouterr().err == f"{path}: left out: 1 text\n"
    assert main(["import", str(path), str(out), "--layer", "nothing"]) == 2
    assert "its layers are 'base'" in capsys.readouterr().err
    assert main(["import", str(path), str(path)]) == 2
