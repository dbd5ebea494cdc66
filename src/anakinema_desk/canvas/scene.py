"""What the bench shows: grid, parts, joints, couplings, traces, closest approaches, and what is selected."""

import math
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPen, QPixmap, QPolygonF, QTransform

from anakinema.document.model import Coupling, Document, Joint, Picture, PointRef
from anakinema.findings import Findings
from anakinema.findings.measuring import dimension_of
from anakinema.formatting import shown
from anakinema.joints import Guide
from anakinema.kinds import Dimension

from ..session import Session
from ..theme import symbols
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens, font
from . import marks
from .layers import Layers, edge
from .paths import region_path
from .pictures import decoded_text
from .spots import Spots
from .stills import Stills

if TYPE_CHECKING:
    from .canvas import Canvas

STAMP, MOST_STAMPS = 32, 100
"""Pixels from the middle of a symbol to the edge of its picture, and how many of these are kept."""
TICKS = (24, 12, 6)
"""Equal spans of time that dots mark along a traced path, as many as there is room for."""
MOST_DIMENSIONS = 3
"""Closest approaches drawn at one moment."""


class Scene:
    """Draws a bench, by what that knows of places, poses and switches."""

    def __init__(self, canvas: "Canvas"):
        self.canvas = canvas
        self._stamps: dict[tuple[object, ...], QPixmap] = {}
        self._picture: tuple[str, QPixmap | None] | None = None
        """The picture to trace, by its bytes."""
        self.measured: dict[str, QRectF] = {}
        """Where the values of measures stand (pixels), to be picked."""
        self.stills = Stills(canvas)
        self.layers = Layers(canvas, self.stills)
        self._closest: tuple[Findings, np.ndarray, np.ndarray] | None = None
        """The findings, and when each pair is closest (s) and how close (infinite where that is not known)."""

    @property
    def session(self) -> Session:
        """What is shown."""
        return self.canvas.session

    @property
    def tokens(self) -> Tokens:
        """The theme."""
        return self.canvas.tokens

    def paint(self, painter: QPainter) -> None:
        """All but what a tool draws."""
        paper = QRectF(self.canvas.rect())
        self.stills.draw(painter, "paper", (self.canvas.size(),), paper, self._draw_grid, opaque=True)
        document = self.session.document
        if document is not None:
            if document.picture is not None:
                self._draw_picture(painter, document.picture)
            trial = self.session.trying.poses(self.session.time / self.session.end if self.session.end else 0.0)
            if trial is not None:  # what is tried is solid, what is there its ghost
                painter.setOpacity(0.3)
            self.layers.draw(painter)
            self._draw_outlines(painter, document)
            painter.setOpacity(1.0)
            if trial is not None:
                self.layers.draw_trial(painter, *trial)
            if self.canvas.show_traces:
                self._draw_traces(painter)
            if self.canvas.show_symbols:
                for coupling in document.active_couplings.values():
                    self._draw_coupling(painter, coupling)
                self._draw_joints(painter)
                self._draw_touches(painter)
                self._draw_measures(painter, document)
            if self.session.posed is None:
                self._draw_closest(painter)
            self.canvas.hand.draw(painter, self.canvas.poses, self.canvas.to_screen, self._pulled(document))
            if (at := self.canvas.pulled_in_vain()) is not None:
                marks.label(painter, self.tokens, at + QPointF(14, -18), self.canvas.why, QColor(self.tokens.line))
            self.canvas.dimensions.clear()
            self.canvas.limits.clear()
            self._draw_selection(painter)
            if self.canvas.band is not None:
                self._draw_band(painter, self.canvas.band)
        self._draw_scale(painter)

    def draw_wanted(self, painter: QPainter, text: str) -> None:
        """What the tool wants next, along the lower edge."""
        if not text:
            return
        painter.setFont(font(9.5))
        metrics, room = painter.fontMetrics(), self.canvas.width() - 60
        lines = [text] if metrics.horizontalAdvance(text) < room else text.split("  ", 1)
        for k, line in enumerate(lines):
            at = QPointF((self.canvas.width() - metrics.horizontalAdvance(line) - 12) / 2, self.canvas.height() - 46)
            marks.label(painter, self.tokens, at - QPointF(0, 24 * (len(lines) - 1 - k)), line,
                        QColor(self.tokens.accent))

    def _draw_picture(self, painter: QPainter, picture: Picture) -> None:
        """The picture to trace, pale, under all."""
        if self._picture is None or self._picture[0] != picture.data:
            pixels, why = decoded_text(picture.data)
            self._picture = (picture.data, pixels)
            if why:
                text = f"The picture to trace can't be shown: {why}"
                QTimer.singleShot(0, partial(self.canvas.session.warned.emit, text, ()))  # not while it is painted
        pixels = self._picture[1]
        if pixels is None:
            return
        high = picture.width * pixels.height() / pixels.width()
        x, y = picture.at
        top, low = self.canvas.to_screen(QPointF(x, y + high)), self.canvas.to_screen(QPointF(x + picture.width, y))
        painter.setOpacity(0.45)
        painter.drawPixmap(QRectF(top, low), pixels, QRectF(pixels.rect()))
        painter.setOpacity(1.0)

    def _grid_step(self) -> float:
        wanted = 42 / max(self.canvas.scale, 1e-12)
        power = 10 ** math.floor(math.log10(wanted))
        return float(next(step * power for step in (1, 2, 5, 10) if step * power >= wanted))

    def _draw_grid(self, painter: QPainter) -> None:
        painter.fillRect(self.canvas.rect(), QColor(self.tokens.paper))
        step = self._grid_step()
        canvas = self.canvas
        corner, far = canvas.to_world(QPointF(0, canvas.height())), canvas.to_world(QPointF(canvas.width(), 0))
        lines = []
        for i in range(math.ceil(corner.x() / step), math.floor(far.x() / step) + 1):
            x = self.canvas.to_screen(QPointF(i * step, 0)).x()
            lines.append(QLineF(x, 0, x, self.canvas.height()))
        for i in range(math.ceil(corner.y() / step), math.floor(far.y() / step) + 1):
            y = self.canvas.to_screen(QPointF(0, i * step)).y()
            lines.append(QLineF(0, y, self.canvas.width(), y))
        painter.setPen(QPen(QColor(self.tokens.grid), 1))
        painter.drawLines(lines)

    def _draw_scale(self, painter: QPainter) -> None:
        document = self.session.document
        if document is None:
            return
        step = self._grid_step()
        length, y = step * self.canvas.scale, self.canvas.height() - 16
        painter.setPen(QPen(QColor(self.tokens.muted), 1.2))
        painter.drawLine(QLineF(16, y, 16 + length, y))
        for x in (16, 16 + length):
            painter.drawLine(QLineF(x, y - 4, x, y + 4))
        painter.setFont(font(8.5))
        painter.drawText(QPointF(24 + length, y + 4), f"{step:g} {document.units.length}")

    def _draw_outlines(self, painter: QPainter, document: Document) -> None:
        """The parts that are selected, and those without a shape."""
        view, selected = self.canvas.view_transform(), self.session.selection
        marked = [*((one, 2.0, self.tokens.accent) for one in self.session.others), (selected, 2.6, self.tokens.accent)]
        for place, width, shade in marked:
            for name in self._marked(document, place):
                self._outline(painter, view, name, shade, width)
        painter.resetTransform()
        self._draw_skeletons(painter)

    def _marked(self, document: Document, place: str) -> list[str]:
        """The parts that are outlined when something is selected."""
        kind, _, name = place.partition(".")
        match kind:
            case "parts" if name in self.canvas.poses:
                return [name]
            case "uses":
                return [part for part in self.canvas.poses if part.startswith(f"{name}/")]
            case "groups" if name in document.groups:
                return list(document.groups[name].parts)
            case "assemblies":
                uses = tuple(f"{use.id}/" for use in document.uses.values() if use.assembly == name)
                return [part for part in self.canvas.poses if part.startswith(uses)] if uses else []
        return []

    def _outline(self, painter: QPainter, view: QTransform, part: str, colour: str, width: float) -> None:
        painter.setPen(edge(colour, width))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(self.canvas.part_transform(part) * view)
        for slab in self.canvas.part(part).slabs:
            painter.drawPath(region_path(slab.region))

    def _draw_skeletons(self, painter: QPainter) -> None:
        spots, hidden, chosen = self.canvas.spots(), self.session.display_state.hidden, self.session.selection
        if not spots.bare:
            return
        lines = spots.skeletons(self.canvas)
        for ink, mine in ((self.tokens.edge, False), (self.tokens.accent, True)):
            painter.setPen(QPen(QColor(ink), 2.0))
            painter.drawLines([line for line, name in zip(lines, spots.bare_names, strict=True)
                               if (chosen == f"parts.{name}") is mine and name not in hidden])  # fmt: skip

    def _draw_traces(self, painter: QPainter) -> None:
        view = self.canvas.view_transform()
        for name, (on, line, path) in self.canvas.traced_paths.items():
            base = self.canvas.part_transform(on) * view if on else view
            chosen = self.session.selection == f"traces.{name}"
            places = base.map(line)

            draw = partial(self._draw_trace, base, places, path, chosen)
            box = places.boundingRect().adjusted(-4, -4, 4, 4).intersected(QRectF(self.canvas.rect()))
            if on and not self.canvas.part(on).fixed:
                draw(painter)
            elif not box.isEmpty():
                self.stills.draw(painter, f"traces.{name}", (chosen, self.canvas.traced), box, draw)
            assert self.session.document is not None
            wanted = self.session.document.traces.get(name)
            if wanted is not None and wanted.point.part in self.canvas.poses:
                at = self.canvas.to_screen(self.canvas.world(wanted.point))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(self.tokens.trace))
                painter.drawEllipse(at, 3.0, 3.0)

    def _draw_trace(
        self, base: QTransform, places: QPolygonF, path: np.ndarray, chosen: bool, painter: QPainter
    ) -> None:
        pen = QPen(QColor(self.tokens.trace), 2.2 if chosen else 1.4)
        pen.setStyle(Qt.PenStyle.DashLine)
        pen.setDashPattern([5, 3])
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolyline(places)
        self._draw_ticks(painter, base, path)

    def _draw_ticks(self, painter: QPainter, base: QTransform, path: np.ndarray) -> None:
        """Dots at equal times along a path (S, 2), which has a point a step: far apart where the point is fast."""
        if len(path) < 2:
            return
        far = float(np.hypot(*np.diff(path, axis=0).T).sum()) * self.canvas.scale
        count = next((count for count in TICKS if far > 14 * count), 0)
        at, steps = np.linspace(0, len(path) - 1, count + 1), np.arange(len(path))
        x, y = (np.interp(at, steps, path[:, axis]) for axis in range(2))
        painter.setPen(QPen(QColor(self.tokens.trace), 3.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPoints([base.map(QPointF(a, b)) for a, b in zip(x.tolist(), y.tolist(), strict=True)])

    def _draw_joints(self, painter: QPainter) -> None:
        """All joints; pins that lie on each other are drawn once, with their number beside."""
        hidden, spots, selected = self.session.display_state.hidden, self.canvas.spots(), self.session.selection
        pixels = spots.pixels(self.canvas)
        inside = (np.abs(pixels.real - self.canvas.width() / 2) < self.canvas.width() / 2 + STAMP) & (
            np.abs(pixels.imag - self.canvas.height() / 2) < self.canvas.height() / 2 + STAMP
        )
        shown = [not hidden or bool({joint.a.part, joint.b.part} - hidden) for joint in spots.joints]
        self._draw_rods(painter, spots, pixels, shown)
        stacked: dict[tuple[int, int, bool], int] = {}
        pins: dict[tuple[bool, bool], QPixmap] = {}
        for k, (x, y) in enumerate(zip(pixels.real.tolist(), pixels.imag.tolist(), strict=True)):
            joint, grounded = spots.joints[k], spots.grounded[k]
            chosen = f"joints.{joint.id}" == selected
            rod = joint.kind.rod
            if not shown[k] or (rod and not chosen) or not (inside[k] or rod):
                continue
            if chosen or not (joint.kind.pin or self._stands(joint)):
                self._draw_joint(painter, joint, QPointF(x, y), grounded)
                continue
            if not joint.kind.pin:
                stamp = self._stamp(joint.kind.symbol, grounded, joint.suspended, self._slide_angle(joint))
            else:
                key = (round(x), round(y), grounded)
                stacked[key] = stacked.get(key, 0) + 1
                if stacked[key] > 1 and not joint.suspended:
                    continue
                look = (grounded, joint.suspended)
                stamp = pins[look] = pins.get(look) or self._stamp(joint.kind.symbol, *look)
            painter.drawPixmap(QPointF(x - STAMP, y - STAMP), stamp)
        self._draw_springs(painter, spots, pixels, shown)
        painter.setFont(font(8))
        painter.setPen(QColor(self.tokens.muted))
        for (left, top, _), count in stacked.items():
            if count > 1:
                painter.drawText(QPointF(left + 7, top - 6), f"×{count}")

    def _draw_touches(self, painter: QPainter) -> None:
        """Where contacts touch, with the common normal; those of one that is selected stand out."""
        for one in self.session.touches():
            spot, chosen = self.canvas.pixel(one.at), f"joints.{one.contact}" == self.session.selection
            painter.save()
            painter.translate(spot)
            symbols.touch(painter, self._ink(False, chosen), math.atan2(one.normal.imag, one.normal.real))
            painter.restore()

    def _draw_springs(self, painter: QPainter, spots: Spots, pixels: np.ndarray, shown: list[bool]) -> None:
        """A spring at each joint that goes back to a rest by itself."""
        for joint, at, seen in zip(spots.joints, pixels.tolist(), shown, strict=True):
            if seen and joint.limits.rest is not None:
                painter.save()
                painter.translate(QPointF(at.real, at.imag))
                symbols.spring(painter, self._ink(joint.suspended, f"joints.{joint.id}" == self.session.selection))
                painter.restore()

    def _draw_rods(self, painter: QPainter, spots: Spots, pixels: np.ndarray, shown: list[bool]) -> None:
        """All joints that are thin rods, but one that is selected."""
        selected, middle = self.session.selection, STAMP * (1 + 1j)
        ends = zip(pixels[spots.rods].tolist(), spots.far_ends(self.canvas).tolist(), strict=True)
        rods = [(spots.joints[k].suspended, one, two) for k, (one, two) in zip(spots.rods.tolist(), ends, strict=True)
                if shown[k] and f"joints.{spots.joints[k].id}" != selected]  # fmt: skip
        for suspended in (False, True):
            some = [(one, two) for state, one, two in rods if state is suspended]
            if some:
                symbols.rods(painter, self._ink(suspended), [QLineF(a.real, a.imag, b.real, b.imag) for a, b in some])
                stamp = self._stamp("rod end", False, suspended)
                for corner in (end - middle for both in some for end in both):
                    painter.drawPixmap(QPointF(corner.real, corner.imag), stamp)

    def _ink(self, suspended: bool, chosen: bool = False) -> QColor:
        """The colour of a joint's symbol."""
        ink = QColor(self.tokens.accent if chosen else self.tokens.symbol)
        ink.setAlphaF(0.4 if suspended else 1.0)
        return ink

    def _draw_joint(self, painter: QPainter, joint: Joint, spot: QPointF, grounded: bool) -> None:
        place = f"joints.{joint.id}"
        chosen = place == self.session.selection
        ink = self._ink(joint.suspended, chosen)
        painter.save()
        painter.translate(spot)
        if chosen or place == self.canvas.hover:
            halo = QColor(self.tokens.accent)
            halo.setAlphaF(0.22)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(halo)
            painter.drawEllipse(QPointF(0, 0), 13, 13)
        other = QPointF(0, 0)
        if joint.kind.rod:
            other = self.canvas.to_screen(self.canvas.world(joint.a)) - spot
        symbols.draw(
            painter, joint.kind.symbol, ink, QColor(self.tokens.paper), grounded=grounded,
            angle=self._slide_angle(joint), other=other,
        )  # fmt: skip
        painter.restore()

    def _stands(self, joint: Joint) -> bool:
        """Whether a joint is a slide whose guide stands still."""
        return joint.kind.guide is Guide.STRAIGHT and self.canvas.part(joint.a.part).fixed

    def _stamp(self, kind: str, grounded: bool, suspended: bool, angle: float = 0.0) -> QPixmap:
        """The symbol of a pin, of a rod's end, or of a slide whose guide stands still, drawn once: a mechanism has many
        of them."""
        ratio = self.canvas.devicePixelRatioF()
        key = (kind, grounded, suspended, angle, self.tokens.name, ratio)
        if key not in self._stamps:
            stamp = clear(QSize(2 * STAMP, 2 * STAMP), ratio)
            ink, paper = self._ink(suspended), QColor(self.tokens.paper)
            with painting(stamp) as painter:
                painter.translate(STAMP, STAMP)
                if kind == "rod end":
                    symbols.rod_end(painter, ink, paper, QPointF(0, 0))
                else:
                    symbols.draw(painter, kind, ink, paper, grounded=grounded, angle=angle)
            if len(self._stamps) > MOST_STAMPS:
                self._stamps.clear()
            self._stamps[key] = stamp
        return self._stamps[key]

    def _slide_angle(self, joint: Joint) -> float:
        """The direction of a joint's slide in the plane; of one on an arc, that of the track where the block is."""
        if joint.kind.guide is Guide.ROUND:
            arm = self.canvas.world(joint.b) - self.canvas.world(joint.a)
            return math.atan2(arm.y(), arm.x()) + math.pi / 2
        return self.canvas.poses[joint.a.part][2] + joint.values.get("direction", 0.0)

    def _draw_coupling(self, painter: QPainter, coupling: Coupling) -> None:
        """Pitch circles of wheels that mesh, pulleys and belt, pinion and rack."""
        document = self.session.document
        assert document is not None
        chosen = self.session.selection == f"joints.{coupling.id}"
        ink = QColor(self.tokens.accent if chosen else self.tokens.symbol)
        one, two = (self.canvas.world(document.joints[name].b) for name in (coupling.a, coupling.b))
        a, b = self.canvas.to_screen(one), self.canvas.to_screen(two)
        far = QLineF(one, two).length()
        match coupling.kind.symbol:
            case "wheels":
                size = abs(coupling.ratio)  # a's radius over b's
                whole = far / (1 - size) if coupling.ratio > 0 and size != 1 else far / (1 + size)
                sizes = (abs(whole * size) * self.canvas.scale, abs(whole) * self.canvas.scale)
                symbols.wheels(painter, ink, a, b, sizes)
            case "belt":
                share = 0.6 * far / (1 + abs(coupling.ratio))
                one_wide, two_wide = coupling.kind.pulleys(coupling.given) or (share * coupling.ratio, share)
                sizes = (abs(one_wide) / 2 * self.canvas.scale, abs(two_wide) / 2 * self.canvas.scale)
                symbols.belt(painter, ink, a, b, sizes, coupling.given.get("run") == "crossed")
            case "pinion":
                radius = abs(coupling.ratio) * self.canvas.scale
                symbols.wheels(painter, ink, a, a, (radius, 0.0))
            case "cam" if coupling.cam is not None and not chosen:
                pass  # the cam itself is there to be seen
            case _:
                symbols.ratio(painter, ink, a, b)

    def _draw_closest(self, painter: QPainter) -> None:
        """Dimensions of the closest approaches that fall into the moment shown."""
        findings, document = self.session.findings, self.session.document
        if findings is None or document is None:
            return
        step = findings.motion.planned / max(findings.motion.steps, 1)
        if self._closest is None or self._closest[0] is not findings:  # there may be thousands of pairs
            known = [np.inf if found.distance is None else found.distance for found in findings.approaches]
            self._closest = findings, np.array([found.t for found in findings.approaches]), np.array(known)
        _, times, least = self._closest
        now = np.flatnonzero((np.abs(times - self.session.time) <= 0.51 * step) & np.isfinite(least))
        failed = {frozenset(verdict.check.parts) for verdict in findings.failed if verdict.check.parts}
        most = MOST_DIMENSIONS if findings.motion.drive.drivers else 1  # what is being built is not to be covered
        for k in now[np.argsort(least[now], kind="stable")[:most]]:
            approach, distance = findings.approaches[k], float(least[k])
            bad = distance < 0 or frozenset(approach.parts) in failed
            colour = QColor(self.tokens.bad if bad else self.tokens.accent)
            one, two = (self.canvas.to_screen(QPointF(z.real, z.imag)) for z in approach.points)
            text = ("" if approach.proven else "≈ ") + shown(distance, "length", document.units, 3)
            marks.dimension(painter, self.tokens, one, two, text, colour)

    def _pulled(self, document: Document) -> str:
        """The coordinates of the joints of the part in the hand, as they are now."""
        motion, part = self.session.motion, self.canvas.hand.part
        if motion is None or not part or self.session.posed is None:
            return ""
        values, coordinates, texts = self.session.coordinates(), motion.system.coordinates, []
        for joint in document.joints.values():
            if part in (joint.a.part, joint.b.part) and joint.id in coordinates:
                column = coordinates.index(joint.id)
                value = shown(float(values[column]), coordinates.dimension(column), document.units, 2)
                texts.append(f"{joint.id} {value}")
        return "    ".join(texts[:MOST_DIMENSIONS])

    def _draw_band(self, painter: QPainter, band: QRectF) -> None:
        colour = QColor(self.tokens.accent)
        painter.setPen(QPen(colour, 1.0, Qt.PenStyle.DashLine))
        colour.setAlphaF(0.08)
        painter.setBrush(colour)
        painter.drawRect(band)

    def _draw_measures(self, painter: QPainter, document: Document) -> None:
        """Measured values where they are taken: between brackets, for they are read and can't be set."""
        self.measured = {}
        for measure in document.measures.values():
            chosen = self.session.selection == f"measures.{measure.id}"
            colour = QColor(self.tokens.accent if chosen else self.tokens.trace)
            value = self.session.measured(measure.id)
            text = f"{measure.id} ⟦{shown(value, dimension_of(measure, document), document.units, 2)}⟧"
            one, two = (self._side(document, side) for side in (measure.a, measure.b))
            painter.setPen(QPen(colour, 1.2, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawLine(QLineF(one, two))
            for end in (one, two):
                painter.drawRect(QRectF(end.x() - 3, end.y() - 3, 6, 6))
            beside = (one + two) / 2 + QPointF(10, -12)
            self.measured[measure.id] = marks.label(painter, self.tokens, beside, text, colour)

    def _side(self, document: Document, side: tuple[PointRef, ...]) -> QPointF:
        """Where a side of a measure is drawn: its point, the middle of its line, or the part's origin."""
        if not side[0].point:
            x, y, _ = self.canvas.poses[side[0].part]
            return self.canvas.to_screen(QPointF(x, y))
        spots = [self.canvas.to_screen(self.canvas.world(ref)) for ref in side]
        return (spots[0] + spots[-1]) / 2

    def _draw_selection(self, painter: QPainter) -> None:
        kind, name = self.session.selected()
        document = self.session.document
        if kind == "joints" and document is not None:
            joint = document.joints[name]
            self._annotate(painter, joint)
        elif kind == "parts" and document is not None and name in self.canvas.poses:
            part = document.parts[name]
            self._draw_freedoms(painter, name)
            for point in part.points:
                at = self.canvas.to_screen(self.canvas.world(PointRef(name, point)))
                box = marks.label(painter, self.tokens, at + QPointF(10, -14), point, QColor(self.tokens.line))
                self.canvas.dimensions.taken.append(box)
            if not self.session.playing and self.canvas.tool is None and not self.session.others:
                self.canvas.dimensions.draw(painter, document, part)

    def draw_hover(self, painter: QPainter) -> None:
        """What is under the mouse: its outline or halo, and its name."""
        document = self.session.document
        hover_kind, _, hover_name = self.canvas.hover.partition(".")
        if document is None or not hover_name or self.canvas.hover == self.session.selection:
            return
        for name in self._marked(document, self.canvas.hover):
            self._outline(painter, self.canvas.view_transform(), name, self.tokens.muted, 1.8)
        painter.resetTransform()
        if hover_kind == "joints" and hover_name in document.joints and self.canvas.show_symbols:
            joint = document.joints[hover_name]
            grounded = self.canvas.part(joint.a.part).fixed or self.canvas.part(joint.b.part).fixed
            self._draw_joint(painter, joint, self.canvas.to_screen(self.canvas.spot(joint)), grounded)
        if self.canvas.dragged is None:
            cursor = self.canvas.mouse
            text = hover_name
            if hover_kind == "parts" and document is not None and hover_name in document.parts:
                text = document.parts[hover_name].name
            elif hover_kind == "joints" and document is not None and hover_name in document.joints:
                text = f"{hover_name} · {document.joints[hover_name].type}"
            marks.label(painter, self.tokens, cursor + QPointF(16, 18), text, QColor(self.tokens.line))

    def _draw_freedoms(self, painter: QPainter, part: str) -> None:
        """Arrows for the motions left to a part: an arc about the centre of its turn, a double arrow along a slide."""
        left = self.session.motions_left(part) or ()
        x, y, _ = self.canvas.poses[part]
        colour = QColor(self.tokens.accent)
        for freedom in left:
            if freedom.kind == "turn":
                middle = self.canvas.to_screen(QPointF(freedom.center.real, freedom.center.imag))
                marks.turn_arrow(painter, middle, colour)
            else:
                way = QPointF(freedom.direction.real, -freedom.direction.imag)
                marks.slide_arrow(painter, self.canvas.to_screen(QPointF(x, y)), way, colour)

    def _annotate(self, painter: QPainter, joint: Joint) -> None:
        """A joint's value, zero, positive direction and range, next to it."""
        motion, document, findings = self.session.motion, self.session.document, self.session.findings
        painter.setFont(font(9.5))
        here = self.canvas.to_screen(self.canvas.spot(joint))
        assert document is not None
        text = joint.id
        colour = QColor(self.tokens.accent)
        found_at: tuple[Dimension, float] | None = None
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if motion is not None and joint.id in motion.system.coordinates:
            coordinates = motion.system.coordinates
            column = coordinates.index(joint.id)
            value = float(self.session.coordinates()[column])
            dimension = coordinates.dimension(column)
            found_at = dimension, value
            text = f"{joint.id} = {shown(value, dimension, document.units, 2)}"
            series = findings.series if findings is not None else ()
            if (found := next((one for one in series if one.place == f"joints.{joint.id}"), None)) is not None:
                ends = (shown(end, dimension, document.units, 2) for end in (found.low, found.high))
                text += f"    range {' … '.join(ends)}"
            base = self.canvas.poses[joint.a.part][2]
            if dimension == Dimension.ANGLE:
                marks.angle_arrow(painter, here, base + joint.values.get("zero", 0.0), value, colour)
            else:
                angle = base + joint.values.get("direction", 0.0)
                start = self.canvas.to_screen(self.canvas.world(joint.a))
                end = start + QPointF(math.cos(angle), -math.sin(angle)) * (value * self.canvas.scale)
                marks.travel_arrow(painter, start, end, angle, colour)
        room = painter.fontMetrics().horizontalAdvance(text) + 24
        left = here.x() < self.canvas.to_screen(self.canvas.middle).x()
        if found_at is not None and not self.session.playing:
            self.canvas.limits.draw(painter, document, joint, *found_at)
        beside = here + QPointF(-room - 40 if left else 48, -34)
        self.canvas.limits.boxes.append(marks.label(painter, self.tokens, beside, text, colour))
        self.canvas.limits.draw_words(painter)
