"""A cam for the workshop: the places of its profile as a table, its outline at true size as DXF, SVG or PDF."""

import cmath
import csv
import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from ..arrays import Array
from ..cams import CamGeometry, FollowerKind
from ..cams.judgement import judged
from ..cams.outline import Ring, rings
from ..cams.profile import FINE, profile
from ..document.model import Coupling, Document
from ..errors import DocumentError, Fault
from ..formatting import in_document_units, shown
from ..geometry.drawn import DrawnPiece, Outline
from ..kinds import MM_IN, Dimension, Units

COLUMNS = ("angle", "x", "y", "radius", "curvature", "pressure_angle")
POINTS = 720
"""Places of a table, where nobody says how many."""
KINDS = (".csv", ".dxf", ".svg", ".pdf")
SHEET, MARGIN = (210.0, 297.0), 12.0
"""A sheet of paper (A4), and what printers leave white of it (mm)."""
MOST_SHEETS = 100
QUARTER = math.pi / 4
"""Turn of an arc that one cubic curve draws."""
MARK = 4.0
"""Half the length of a centre mark (mm)."""


@dataclass(frozen=True)
class CamDrawing:
    """Closed outlines of a cam in its part's axes (document lengths), with its axis, and by how much lines and arcs may
    miss what is exact; `said` is written beside them."""

    outlines: tuple[Outline, ...]
    center: complex
    units: Units
    error: float
    said: tuple[str, ...]

    @property
    def millimetres(self) -> float:
        """How many millimetres a document length is."""
        return MM_IN[self.units.length]


def cam_of(document: Document, joint: str) -> tuple[Coupling, CamGeometry]:
    """A cam with its geometry. Raises `DocumentError` where there is none."""
    coupling = document.couplings.get(joint)
    place = f"joints.{joint}"
    if coupling is None or not coupling.kind.by_program:
        cams = [name for name, one in document.couplings.items() if one.kind.by_program]
        known = ", ".join(f"'{name}'" for name in cams[:8]) or "none"
        raise DocumentError([Fault(place, f"is no cam; the cams of this document are {known}")])
    if coupling.cam is None:
        what = "it says no 'follower'" if coupling.follower is None else "no one part carries shaft and follower"
        raise DocumentError([Fault(place, f"has no profile: {what}")])
    return coupling, coupling.cam


def cam_table(document: Document, joint: str, points: int = POINTS) -> str:
    """CSV: a row for each of so many coordinates of the shaft over a turn, where the follower touches, in the axes of
    the part that is the cam: coordinate, place, distance from the axis, curvature (positive where it is convex), and
    pressure angle (positive where it goes with a growing coordinate); document units."""
    _, cam = cam_of(document, joint)
    a = places(cam, points)
    course = cam.course(a)
    units = document.units
    turns = Dimension.LENGTH if cam.shaft.slides else Dimension.ANGLE
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(COLUMNS)
    for row in zip(
        (in_document_units(one, turns, units) for one in a.tolist()), course.profile.real.tolist(),
        course.profile.imag.tolist(), np.abs(course.profile - cam.middle).tolist(), course.curvature.tolist(),
        (in_document_units(one, Dimension.ANGLE, units) for one in course.pressure.tolist()), strict=True,
    ):  # fmt: skip
        writer.writerow(row)
    return out.getvalue()


def places(cam: CamGeometry, points: int) -> Array:
    """(N,) coordinates of the shaft, evenly over a turn; on a slide from end to end."""
    low, high = cam.range
    found: Array = np.linspace(low, high, points, endpoint=cam.shaft.slides)
    return found


def cam_drawing(document: Document, joint: str, tolerance: float = 0.0, cutter: float = 0.0) -> CamDrawing:
    """The outline of a cam, as its part wears it, by lines and arcs within a tolerance (document lengths; default a
    millionth of its size); with a `cutter` of that radius the way of its centre. Raises `DocumentError` where the cam
    is undercut, or where the cutter would gouge."""
    coupling, cam = cam_of(document, joint)
    found, units, place = judged(cam), document.units, f"joints.{joint}"
    turns = Dimension.LENGTH if cam.shaft.slides else Dimension.ANGLE
    if found.undercut:
        start, stop = (shown(one, turns, units) for one in found.undercut[0])
        text = f"is undercut from {start} to {stop}: no profile moves its follower so there; make the cam larger first"
        raise DocumentError([Fault(place, text)])
    worn = next((shape for part in document.parts.values() for shape in part.shapes
                 if shape.kind == coupling.kind.symbol and getattr(shape, "joint", "") == joint), None)  # fmt: skip
    groove, width, back = (getattr(worn, key, 0) for key in ("groove", "width", "back"))
    if cutter:
        _refuse_gouging(document, joint, cam, cutter, width / 2 or cam.follower.radius if groove else 0.0)
    if groove:
        half = width / 2 or cam.follower.radius
        made = [profile(cam, side, tolerance, cutter) for side in (half, -half)]
        found_rings: tuple[Ring, ...] = tuple((one.start, one.turns) for one in made)
    else:
        found_rings = rings(cam, False, 0.0, back, tolerance, cutter)
    error = tolerance or FINE * found.base
    said = (
        f"{document.title or joint}: cam {joint}, least radius {shown(found.base, Dimension.LENGTH, units)}",
        f"true size; lines and arcs within {error:.3g} {units.length}",
        *((f"way of the centre of a cutter of radius {shown(cutter, Dimension.LENGTH, units)}",) if cutter else ()),
    )
    return CamDrawing(tuple(map(_outline, found_rings)), cam.middle, units, error, said)


def _outline(ring: Ring) -> Outline:
    """A ring as a drawing holds it."""
    here, pieces = ring[0], []
    for to, center, ccw in ring[1]:
        pieces.append(DrawnPiece(here, to, center, ccw))
        here = to
    return Outline("PROFILE", tuple(pieces))


def _refuse_gouging(document: Document, joint: str, cam: CamGeometry, cutter: float, half: float) -> None:
    """Raises `DocumentError` where a cutter is larger than a hollow of what it is to cut."""
    units, place = document.units, f"joints.{joint}"
    if half:
        if cutter > half * (1 + 1e-9):
            sizes = [shown(one, "length", units) for one in (cutter, half)]
            text = f"a cutter of radius {sizes[0]} is wider than the groove; take one of {sizes[1]} at most"
            raise DocumentError([Fault(place, text)])
        return
    found = judged(cam)
    turns = Dimension.LENGTH if cam.shaft.slides else Dimension.ANGLE
    least, at = found.hollow.value, found.hollow.at
    for a in hollow_corners(cam):
        least, at = min((least, at), (cam.follower.radius if cam.follower.kind is FollowerKind.ROLLER else 0.0, a))
    if cutter > least * (1 + 1e-9):
        text = (f"a cutter of radius {shown(cutter, 'length', units)} gouges at {shown(at, turns, units)}, where the "
                f"cam is hollow with radius {shown(least, 'length', units)}; take a smaller one")  # fmt: skip
        raise DocumentError([Fault(place, text)])


def hollow_corners(cam: CamGeometry) -> list[float]:
    """The coordinates of the shaft at which the profile has a corner inwards, as where the rate of a law jumps."""
    found = []
    low, high = cam.range
    for joint in dict.fromkeys(cam.law.joints()):
        if low < joint <= high or (joint == low and cam.law.period):
            hair = 1e-9 * max(1.0, abs(joint))
            one, two = cam.course(np.array([joint - hair, joint + hair])).normal.tolist()
            if cam.side * (complex(one).conjugate() * complex(two)).imag > 1e-6:
                found.append(joint)
    return found


# -- files -------------------------------------------------------------------------------------------------------------


def write_cam(path: Path, document: Document, joint: str, points: int, tolerance: float, cutter: float) -> None:
    """Writes a cam by what its file is called. Raises `DocumentError` where it can't be made, `ValueError` where the
    name says no form that is known, `OSError` where it can't be written."""
    from .writing import write_whole

    form = path.suffix.lower()
    if form not in KINDS:
        raise ValueError(f"a cam is written as {', '.join(KINDS)}; the name says '{path.suffix or path.name}'")
    if form == ".csv":
        write_whole(path, cam_table(document, joint, points).encode())
        return
    drawing = cam_drawing(document, joint, tolerance, cutter)
    write_whole(path, {".dxf": cam_dxf, ".svg": cam_svg, ".pdf": cam_pdf}[form](drawing))


def cam_dxf(drawing: CamDrawing) -> bytes:
    """Closed polylines of lines and arcs on layer PROFILE, the axis as a cross on layer CENTRE."""
    from ezdxf.document import Drawing
    from ezdxf.enums import TextEntityAlignment

    from .drawings.dxf import CODES, add_polyline

    file = Drawing.new("R2010")
    file.units = CODES[drawing.units.length]
    space = file.modelspace()
    for layer in ("PROFILE", "CENTRE", "NOTE"):
        file.layers.add(layer)
    for outline in drawing.outlines:
        add_polyline(space, outline)
    size = MARK / drawing.millimetres
    for way in (1, 1j):
        one, two = drawing.center - way * size, drawing.center + way * size
        space.add_line((one.real, one.imag), (two.real, two.imag), dxfattribs={"layer": "CENTRE"})
    low = min(z.imag for z in _corners(drawing))
    for k, text in enumerate(drawing.said):
        note = space.add_text(text, height=size * 0.6, dxfattribs={"layer": "NOTE"})
        note.set_placement((drawing.center.real, low - size * (1.5 + k)), align=TextEntityAlignment.MIDDLE_CENTER)
    out = io.StringIO()
    file.write(out)
    return out.getvalue().encode()


def _corners(drawing: CamDrawing) -> list[complex]:
    return [piece.start for outline in drawing.outlines for piece in outline.pieces]


def _box(drawing: CamDrawing) -> tuple[complex, complex]:
    """Lower left and upper right of all (mm), with its axis."""
    by = drawing.millimetres
    points = np.array([*_corners(drawing), drawing.center]) * by
    return complex(points.real.min(), points.imag.min()), complex(points.real.max(), points.imag.max())


def cam_svg(drawing: CamDrawing) -> bytes:
    """At true size in millimetres, with a scale bar."""
    from .drawings.svg import path_data

    by, (low, high) = drawing.millimetres, _box(drawing)
    wide, tall = high.real - low.real + 2 * MARGIN, high.imag - low.imag + 2 * MARGIN + 18
    bar = _bar(high.real - low.real)

    def at(z: complex) -> str:
        return f"{z.real - low.real + MARGIN:.7f} {high.imag - z.imag + MARGIN:.7f}"

    aside = complex(MARGIN - low.real, -MARGIN - high.imag)
    paths = [path_data(Outline(one.layer, tuple(piece.scaled(by).moved(aside) for piece in one.pieces)))
             for one in drawing.outlines]  # fmt: skip
    cross = drawing.center * by
    marks = " ".join(f"M {at(cross - way * MARK)} L {at(cross + way * MARK)}" for way in (1, 1j))
    foot = tall - 14
    ruler = f"M {MARGIN} {foot - 2} v 4 M {MARGIN} {foot} h {bar} M {MARGIN + bar} {foot - 2} v 4"
    words = [f'<text x="{MARGIN}" y="{foot + 5 + 4 * k:.1f}">{_escaped(text)}</text>'
             for k, text in enumerate((f"{bar:g} mm", *drawing.said[:2]))]  # fmt: skip
    head = f'width="{wide:.4f}mm" height="{tall:.4f}mm" viewBox="0 0 {wide:.4f} {tall:.4f}"'
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" {head}>',
        f'<path id="profile" d="{" ".join(paths)}" fill="none" stroke="black" stroke-width="0.18"/>',
        f'<path id="centre" d="{marks}" fill="none" stroke="black" stroke-width="0.13"/>',
        f'<path id="scale" d="{ruler}" fill="none" stroke="black" stroke-width="0.25"/>',
        f'<g font-family="sans-serif" font-size="3">{"".join(words)}</g>',
        "</svg>",
    ]
    return ("\n".join(lines) + "\n").encode()


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")


def _bar(wide: float) -> float:
    """A round length (mm) of a scale bar."""
    return next((size for size in (100.0, 50.0, 20.0, 10.0, 5.0, 2.0) if size <= max(wide, 2.0)), 1.0)


def cam_pdf(drawing: CamDrawing) -> bytes:
    """At true size on as many sheets as it needs, each with a scale bar, its place among them, and crosses at the
    corners by which they are put together. Raises `DocumentError` where these are too many."""
    from reportlab.lib.units import mm
    from reportlab.pdfgen.canvas import Canvas

    by, (low, high) = drawing.millimetres, _box(drawing)
    foot = 16.0  # mm, for scale bar and words
    clear = complex(SHEET[0] - 2 * MARGIN, SHEET[1] - 2 * MARGIN - foot)
    size = high - low + complex(1, 1)
    columns, rows = math.ceil(size.real / clear.real), math.ceil(size.imag / clear.imag)
    if columns * rows > MOST_SHEETS:
        text = f"takes {columns * rows} sheets at true size, {MOST_SHEETS} at most are printed; write a DXF or SVG"
        raise DocumentError([Fault("joints", text)])
    out = io.BytesIO()
    page = Canvas(out, pagesize=(SHEET[0] * mm, SHEET[1] * mm))
    page.setTitle(drawing.said[0])
    page.setCreator("Anakinema")
    middle = (low + high) / 2
    corner = middle - complex(columns * clear.real, rows * clear.imag) / 2
    for row in reversed(range(rows)):
        for column in range(columns):
            _sheet(page, drawing, mm, corner + complex(column * clear.real, row * clear.imag), clear, foot, by,
                   f"sheet {(rows - 1 - row) * columns + column + 1} of {columns * rows}, row {rows - row}, column "
                   f"{column + 1}")  # fmt: skip
    page.save()
    return out.getvalue()


def _sheet(page: Any, drawing: CamDrawing, mm: float, corner: complex, clear: complex, foot: float, by: float,
           number: str) -> None:  # fmt: skip
    """One sheet: what lies from a corner on (mm)."""
    left, bottom = MARGIN, MARGIN + foot
    page.setLineWidth(0.12 * mm)
    for x in (left, left + clear.real):  # by these the sheets are put together
        for y in (bottom, bottom + clear.imag):
            page.line((x - 3) * mm, y * mm, (x + 3) * mm, y * mm)
            page.line(x * mm, (y - 3) * mm, x * mm, (y + 3) * mm)
    page.saveState()
    window = page.beginPath()
    window.rect(left * mm, bottom * mm, clear.real * mm, clear.imag * mm)
    page.clipPath(window, stroke=0)
    page.translate((left - corner.real) * mm, (bottom - corner.imag) * mm)
    path = page.beginPath()
    for outline in drawing.outlines:
        pieces = [piece.scaled(by * mm) for piece in outline.pieces]
        path.moveTo(pieces[0].start.real, pieces[0].start.imag)
        for piece in pieces:
            for points in _curves(piece):
                path.curveTo(*(value for z in points for value in (z.real, z.imag)))
            if piece.center is None:
                path.lineTo(piece.end.real, piece.end.imag)
        path.close()
    page.setLineWidth(0.18 * mm)
    page.drawPath(path, stroke=1, fill=0)
    cross = drawing.center * by
    page.line((cross.real - MARK) * mm, cross.imag * mm, (cross.real + MARK) * mm, cross.imag * mm)
    page.line(cross.real * mm, (cross.imag - MARK) * mm, cross.real * mm, (cross.imag + MARK) * mm)
    page.restoreState()
    bar = _bar(clear.real)
    page.setLineWidth(0.3 * mm)
    for x in (0.0, bar):
        page.line((left + x) * mm, (MARGIN + 9) * mm, (left + x) * mm, (MARGIN + 13) * mm)
    page.line(left * mm, (MARGIN + 11) * mm, (left + bar) * mm, (MARGIN + 11) * mm)
    page.setFont("Helvetica", 8)
    page.drawString((left + bar + 3) * mm, (MARGIN + 10) * mm, f"{bar:g} mm: measure it; {number}")
    for k, text in enumerate(drawing.said):
        page.drawString(left * mm, (MARGIN + 5 - 3.2 * k) * mm, text.replace("⌀", "Ø"))
    page.showPage()


def _curves(piece: DrawnPiece) -> Sequence[tuple[complex, ...]]:
    """Cubic curves for an arc, of an eighth of a turn at most: they miss it by less than 1e-6 of its radius."""
    if piece.center is None:
        return ()
    count = max(1, math.ceil(abs(piece.sweep) / QUARTER))
    step = piece.sweep / count
    reach, found, here = 4 / 3 * math.tan(step / 4), [], piece.start - piece.center
    for _ in range(count):
        there = here * cmath.rect(1.0, step)
        found.append((piece.center + here * (1 + 1j * reach), piece.center + there * (1 - 1j * reach),
                      piece.center + there))  # fmt: skip
        here = there
    return found
