"""What the bench shows: grid, parts, joints, couplings, traces, closest approaches, and what is selected."""

import math
from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform

from anakinema.document.model import Document, Joint, Picture, PointRef
from anakinema.findings import Findings
from anakinema.findings.measuring import dimension_of
from anakinema.formatting import shown
from anakinema.kinds import Dimension
from anakinema.measures import MEASURE_TYPES
from anakinema.operations.own_features import feature_of, own_feature, spots_of

from ..state.ghost import Ghost
from ..theme.tokens import Tokens, font
from . import marks
from .dimensions import Dimensions
from .frame import Frame
from .joint_painting import JointPainter
from .layers import Layers, edge
from .limits import LimitHandles
from .paths import path_at
from .pictures import decoded_text
from .stills import Stills
from .viewport import Viewport

if TYPE_CHECKING:
    from anakinema.clearance.swept import Swept

TICKS = (24, 12, 6)
"""Equal spans of time that dots mark along a traced path, as many as there is room for."""
MOST_DIMENSIONS = 3
"""Closest approaches drawn at one moment."""


class Scene:
    """Paints frames. It keeps pictures of what stands still from one to the next, and where what it painted last can be
    taken hold of."""

    frame: Frame
    view: Viewport
    """What is being painted."""

    def __init__(self, dimensions: Dimensions, limits: LimitHandles, warn: Callable[[str], None]):
        self.dimensions, self.limits, self.warn = dimensions, limits, warn
        self.joints = JointPainter()
        self._picture: tuple[str, QPixmap | None] | None = None
        """The picture to trace, by its bytes."""
        self.measured: dict[str, QRectF] = {}
        """Where the values of measures stand (pixels), to be picked."""
        self.stills = Stills()
        self.layers = Layers(self.stills)
        self._closest: tuple[Findings, np.ndarray, np.ndarray] | None = None
        """The findings, and when each pair is closest (s) and how close (infinite where that is not known)."""

    @property
    def tokens(self) -> Tokens:
        """The theme."""
        return self.frame.tokens

    def paint_paper(self, painter: QPainter, tokens: Tokens, view: Viewport) -> None:
        """The paper with its grid."""
        draw = partial(self._draw_grid, tokens, view)
        self.stills.draw(painter, view, "paper", (tokens.name,), view.rect, draw, opaque=True)

    def paint(self, painter: QPainter, frame: Frame, view: Viewport) -> None:
        """The paper, and all of a frame."""
        self.frame, self.view = frame, view
        self.joints.begin(frame.trial or frame, view)
        self.paint_paper(painter, frame.tokens, view)
        document = frame.document
        if document.picture is not None:
            self._draw_picture(painter, document.picture)
        if frame.swept is not None:
            self._draw_swept(painter, frame.swept)
        if frame.trial is not None:  # what is tried is solid, what is there its ghost
            painter.setOpacity(0.3)
        self.layers.draw(painter, frame, view)
        if frame.ghost is not None:
            self._draw_ghost(painter, frame.ghost)
        self._draw_outlines(painter, document)
        painter.setOpacity(1.0)
        if frame.trial is not None:
            self.layers.draw_trial(painter, frame, view)
        if frame.looks.traces:
            self._draw_traces(painter, frame.trial or frame)
        self.measured = {}
        if frame.looks.symbols:
            self.joints.draw(painter)
            if frame.trial is None:
                self._draw_measures(painter, document)
        if not frame.posed and frame.trial is None:
            self._draw_closest(painter)
        self._draw_cautions(painter)
        if frame.cut is not None:
            marks.cut(painter, self.tokens, view, *frame.cut)
        self._draw_pull(painter)
        self.dimensions.clear()
        self.limits.clear()
        self._draw_selection(painter)
        if frame.band is not None:
            self._draw_band(painter, frame.band)
        self._draw_scale(painter)

    def _draw_swept(self, painter: QPainter, area: "Swept") -> None:
        """The area that something sweeps, pale under the parts."""
        path = QPainterPath()
        for ring in area.rings:
            path.addPolygon(QPolygonF([QPointF(z.real, z.imag) for z in ring.tolist()]))
        if area.on and area.on not in self.frame.poses:
            return
        base = self.frame.transform(area.on) if area.on else QTransform()
        fill = QColor(self.tokens.trace)
        fill.setAlphaF(0.12)
        pen = QPen(QColor(self.tokens.trace), 1.4, Qt.PenStyle.DashLine)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(fill)
        painter.setTransform(base * self.view.transform)
        painter.drawPath(path)
        painter.resetTransform()

    def _draw_cautions(self, painter: QPainter) -> None:
        """A sign where a gap can catch something, while it is narrow."""
        findings, frame = self.frame.findings, self.frame
        if findings is None or frame.posed or frame.trial is not None or findings.document is not frame.document:
            return
        for one in findings.cautions:
            if one.at is not None and any(low <= frame.time <= high for low, high in one.spans):
                marks.caution(painter, self.tokens, self.view.pixel(one.at))

    def _draw_picture(self, painter: QPainter, picture: Picture) -> None:
        """The picture to trace, pale, under all."""
        if self._picture is None or self._picture[0] != picture.data:
            pixels, why = decoded_text(picture.data)
            self._picture = (picture.data, pixels)
            if why:
                text = f"The picture to trace can't be shown: {why}"
                QTimer.singleShot(0, partial(self.warn, text))  # not while it is painted
        pixels = self._picture[1]
        if pixels is None:
            return
        high = picture.width * pixels.height() / pixels.width()
        x, y = picture.at
        top, low = self.view.pixel(complex(x, y + high)), self.view.pixel(complex(x + picture.width, y))
        painter.setOpacity(0.45)
        painter.drawPixmap(QRectF(top, low), pixels, QRectF(pixels.rect()))
        painter.setOpacity(1.0)

    @staticmethod
    def _draw_grid(tokens: Tokens, view: Viewport, painter: QPainter) -> None:
        painter.fillRect(view.rect, QColor(tokens.paper))
        step = grid_step(view)
        corner, far = view.place(QPointF(0, view.height)), view.place(QPointF(view.width, 0))
        lines = []
        for i in range(math.ceil(corner.real / step), math.floor(far.real / step) + 1):
            x = view.pixel(complex(i * step)).x()
            lines.append(QLineF(x, 0, x, view.height))
        for i in range(math.ceil(corner.imag / step), math.floor(far.imag / step) + 1):
            y = view.pixel(i * step * 1j).y()
            lines.append(QLineF(0, y, view.width, y))
        painter.setPen(QPen(QColor(tokens.grid), 1))
        painter.drawLines(lines)

    def _draw_scale(self, painter: QPainter) -> None:
        step = grid_step(self.view)
        length, y = step * self.view.scale, self.view.height - 16
        painter.setPen(QPen(QColor(self.tokens.muted), 1.2))
        painter.drawLine(QLineF(16, y, 16 + length, y))
        for x in (16, 16 + length):
            painter.drawLine(QLineF(x, y - 4, x, y + 4))
        painter.setFont(font(8.5))
        painter.drawText(QPointF(24 + length, y + 4), f"{step:g} {self.frame.document.units.length}")

    def _draw_outlines(self, painter: QPainter, document: Document) -> None:
        """The parts that are selected, and those without a shape."""
        view, selected = self.view.transform, self.frame.selection
        # Of a feature that is selected the feature itself stands out, its part but little.
        first = (1.6, self.tokens.muted) if selected.startswith("features.") else (2.6, self.tokens.accent)
        marked = [*((one, 2.0, self.tokens.accent) for one in self.frame.others), (selected, *first)]
        for place, width, shade in marked:
            for name in self._marked(document, place):
                self._outline(painter, view, name, shade, width)
        painter.resetTransform()
        self._draw_skeletons(painter)

    def _marked(self, document: Document, place: str) -> list[str]:
        """The parts that are outlined when something is selected."""
        kind, _, name = place.partition(".")
        match kind:
            case "parts" if name in self.frame.poses:
                return [name]
            case "features" if (part := name.partition("#")[0]) in self.frame.poses:
                return [part]
            case "uses":
                return [part for part in self.frame.poses if part.startswith(f"{name}/")]
            case "groups" if name in document.groups:
                return list(document.groups[name].parts)
            case "assemblies":
                uses = tuple(f"{use.id}/" for use in document.uses.values() if use.assembly == name)
                return [part for part in self.frame.poses if part.startswith(uses)] if uses else []
        return []

    def _outline(self, painter: QPainter, view: QTransform, part: str, colour: str, width: float) -> None:
        painter.setPen(edge(colour, width))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setTransform(self.frame.transform(part) * view)
        for slab in self.frame.part(part).slabs:
            painter.drawPath(path_at(slab.region, self.view.scale))

    def _draw_ghost(self, painter: QPainter, ghost: Ghost) -> None:
        """The outlines of the moving parts at a position that is kept in sight."""
        pen = edge(self.tokens.text, 1.2)
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for part in ghost.document.parts.values():
            if part.fixed or part.id in self.frame.looks.hidden:
                continue
            x, y, angle = ghost.poses[part.id]
            painter.setTransform(QTransform().translate(x, y).rotateRadians(angle) * self.view.transform)
            for slab in part.slabs:
                painter.drawPath(path_at(slab.region, self.view.scale))
        painter.resetTransform()

    def _draw_skeletons(self, painter: QPainter) -> None:
        spots, hidden, chosen = self.frame.drawn.spots, self.frame.looks.hidden, self.frame.selection
        if not spots.bare:
            return
        lines = spots.skeletons(self.frame, self.view)
        for ink, mine in ((self.tokens.edge, False), (self.tokens.accent, True)):
            painter.setPen(QPen(QColor(ink), 2.0))
            painter.drawLines([line for line, name in zip(lines, spots.bare_names, strict=True)
                               if (chosen == f"parts.{name}") is mine and name not in hidden])  # fmt: skip

    def _draw_traces(self, painter: QPainter, frame: Frame) -> None:
        view = self.view.transform
        for name, (on, line, path) in frame.traced.paths.items():
            base = frame.transform(on) * view if on else view
            chosen = self.frame.selection == f"traces.{name}"
            places = base.map(line)

            draw = partial(self._draw_trace, base, places, path, chosen)
            box = places.boundingRect().adjusted(-4, -4, 4, 4).intersected(self.view.rect)
            if on and not frame.part(on).fixed:
                draw(painter)
            elif not box.isEmpty():
                of = (chosen, frame.traced, self.tokens.name)
                self.stills.draw(painter, self.view, f"traces.{name}", of, box, draw)
            wanted = frame.document.traces.get(name)
            if wanted is not None and wanted.point.part in frame.poses:
                at = self.view.pixel(frame.world(wanted.point))
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
        far = float(np.hypot(*np.diff(path, axis=0).T).sum()) * self.view.scale
        count = next((count for count in TICKS if far > 14 * count), 0)
        at, steps = np.linspace(0, len(path) - 1, count + 1), np.arange(len(path))
        x, y = (np.interp(at, steps, path[:, axis]) for axis in range(2))
        painter.setPen(QPen(QColor(self.tokens.trace), 3.4, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
        painter.drawPoints([base.map(QPointF(a, b)) for a, b in zip(x.tolist(), y.tolist(), strict=True)])

    def _draw_closest(self, painter: QPainter) -> None:
        """Dimensions of the closest approaches that fall into the moment shown."""
        findings, document = self.frame.findings, self.frame.document
        if findings is None:
            return
        step = findings.motion.planned / max(findings.motion.steps, 1)
        if self._closest is None or self._closest[0] is not findings:  # there may be thousands of pairs
            known = [np.inf if found.distance is None else found.distance for found in findings.approaches]
            self._closest = findings, np.array([found.t for found in findings.approaches]), np.array(known)
        _, times, least = self._closest
        now = np.flatnonzero((np.abs(times - self.frame.time) <= 0.51 * step) & np.isfinite(least))
        failed = {frozenset(verdict.check.parts) for verdict in findings.failed if verdict.check.parts}
        most = MOST_DIMENSIONS if findings.motion.drive.drivers else 1  # what is being built is not to be covered
        for k in now[np.argsort(least[now], kind="stable")[:most]]:
            approach, distance = findings.approaches[k], float(least[k])
            bad = distance < 0 or frozenset(approach.parts) in failed
            colour = QColor(self.tokens.bad if bad else self.tokens.accent)
            one, two = map(self.view.pixel, approach.points)
            text = ("" if approach.proven else "≈ ") + shown(distance, "length", document.units, 3)
            marks.dimension(painter, self.tokens, one, two, text, colour)

    def _draw_pull(self, painter: QPainter) -> None:
        """A line from the point in the hand to where it is pulled, why it can't follow, and how its joints stand."""
        if self.frame.refused is not None:
            at, why = self.frame.refused
            marks.label(painter, self.tokens, at + QPointF(14, -18), why, QColor(self.tokens.line))
        pulled = self.frame.pulled
        if pulled is None or pulled.part not in self.frame.poses:
            return
        at, hand = self.view.pixel(self.frame.stands(pulled.part, pulled.local)), self.view.pixel(pulled.target)
        colour = QColor(self.tokens.warn if pulled.reason else self.tokens.accent)
        painter.setPen(QPen(colour, 1.4, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawLine(at, hand)
        painter.setPen(QPen(colour, 2.0))
        painter.drawEllipse(at, 5.0, 5.0)
        if text := self._joints_of(pulled.part):
            marks.label(painter, self.tokens, hand + QPointF(14, 10), text, QColor(self.tokens.line))
        if pulled.reason:
            marks.label(painter, self.tokens, hand + QPointF(14, -18), pulled.reason, colour)

    def _joints_of(self, part: str) -> str:
        """The coordinates of the joints of a part, as they are now."""
        motion, document = self.frame.motion, self.frame.document
        if motion is None or not self.frame.posed:
            return ""
        values, coordinates, texts = self.frame.coordinates, motion.system.coordinates, []
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
        for measure in document.measures.values():
            value = self.frame.measured(measure.id) if MEASURE_TYPES[measure.kind].named else None
            if value is None:
                continue
            chosen = self.frame.selection == f"measures.{measure.id}"
            colour = QColor(self.tokens.accent if chosen else self.tokens.trace)
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
            x, y, _ = self.frame.poses[side[0].part]
            return self.view.pixel(complex(x, y))
        spots = [self.view.pixel(self.frame.world(ref)) for ref in side]
        return (spots[0] + spots[-1]) / 2

    def _feature(self, painter: QPainter, name: str) -> None:
        """Lights a feature of a part: its line, else its place."""
        one = own_feature(self.frame.document, name)
        if one is None:
            return
        base = self.frame.transform(one.part) * self.view.transform
        for feature in self.frame.drawn.features(one.part):
            if feature_of(self.frame.document, one.part, feature) != one:
                continue
            marks.along(painter, self.tokens, base, feature)
            painter.setPen(QPen(QColor(self.tokens.accent), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            if feature.along is None:
                painter.drawEllipse(self.view.pixel(self.frame.stands(one.part, feature.at)), 7.0, 7.0)

    def _draw_selection(self, painter: QPainter) -> None:
        kind, name = self.frame.chosen
        document = self.frame.document
        if kind == "features":
            self._feature(painter, name)
            self._draw_place(painter, name)
        if kind == "joints":
            joint = document.joints[name]
            self._annotate(painter, joint)
        elif kind == "parts" and name in self.frame.poses:
            part = document.parts[name]
            self._draw_freedoms(painter, name)
            for point in part.points:
                at = self.view.pixel(self.frame.world(PointRef(name, point)))
                box = marks.label(painter, self.tokens, at + QPointF(10, -14), point, QColor(self.tokens.line))
                self.dimensions.taken.append(box)
            if not self.frame.playing and not self.frame.tool and not self.frame.others:
                self.dimensions.draw(painter, self.frame, self.view, part)

    def paint_hover(self, painter: QPainter, frame: Frame, view: Viewport, hover: str, at: QPointF | None) -> None:
        """What is under the mouse: its outline or halo, and its name where the mouse is at rest."""
        self.frame, self.view = frame, view
        self.joints.begin(frame.trial or frame, view)
        document = frame.document
        kind, _, name = hover.partition(".")
        if not name or hover == frame.selection:
            return
        if kind == "features":
            self._feature(painter, name)
        for part in self._marked(document, hover):
            self._outline(painter, view.transform, part, self.tokens.muted, 1.8)
        painter.resetTransform()
        if kind == "joints" and name in document.joints and frame.looks.symbols:
            joint = document.joints[name]
            grounded = frame.part(joint.a.part).fixed or frame.part(joint.b.part).fixed
            self.joints.draw_joint(painter, joint, view.pixel(frame.spot(joint)), grounded, lit=True)
        if at is not None:
            text = name
            if kind == "features":
                text = self._feature_text(name)
            if kind == "parts" and name in document.parts:
                text = document.parts[name].name
            elif kind == "joints" and name in document.joints:
                text = f"{name} · {document.joints[name].type}"
            marks.label(painter, self.tokens, at + QPointF(16, 18), text, QColor(self.tokens.line))

    def _feature_text(self, name: str) -> str:
        """What a feature is, in words."""
        one = own_feature(self.frame.document, name)
        if one is None:
            return name
        own = (feature for feature in self.frame.drawn.features(one.part)
               if feature_of(self.frame.document, one.part, feature) == one)  # fmt: skip
        return next((feature.description(one.part) for feature in own), name)

    def _draw_place(self, painter: QPainter, name: str) -> None:
        """Where a feature lies from its part's origin, beside it."""
        one = own_feature(self.frame.document, name)
        if one is None:
            return
        spots = spots_of(self.frame.document, one)
        spot = next(iter(spots.values()), 0j)
        own = spot.conjugate() if self.frame.document.is_mirrored(one.part) else spot
        units = self.frame.document.units
        text = "   ".join(f"{axis} {shown(value, 'length', units, 3)}" for axis, value in
                          (("x", spot.real), ("y", spot.imag)))  # fmt: skip
        at = self.view.pixel(self.frame.stands(one.part, own)) + QPointF(14, 18)
        marks.label(painter, self.tokens, at, text, QColor(self.tokens.accent))

    def _draw_freedoms(self, painter: QPainter, part: str) -> None:
        """Arrows for the motions left to a part: an arc about the centre of its turn, a double arrow along a slide."""
        x, y, _ = self.frame.poses[part]
        colour = QColor(self.tokens.accent)
        for freedom in self.frame.freedoms:
            if freedom.kind == "turn":
                middle = self.view.pixel(freedom.center)
                marks.turn_arrow(painter, middle, colour)
            else:
                way = QPointF(freedom.direction.real, -freedom.direction.imag)
                marks.slide_arrow(painter, self.view.pixel(complex(x, y)), way, colour)

    def _annotate(self, painter: QPainter, joint: Joint) -> None:
        """A joint's value, zero, positive direction and range, next to it."""
        motion, document, findings = self.frame.motion, self.frame.document, self.frame.findings
        painter.setFont(font(9.5))
        here = self.view.pixel(self.frame.spot(joint))
        text = joint.id
        colour = QColor(self.tokens.accent)
        found_at: tuple[Dimension, float] | None = None
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if motion is not None and joint.id in motion.system.coordinates:
            coordinates = motion.system.coordinates
            column = coordinates.index(joint.id)
            value = float(self.frame.coordinates[column])
            dimension = coordinates.dimension(column)
            found_at = dimension, value
            text = f"{joint.id} = {shown(value, dimension, document.units, 2)}"
            series = findings.series if findings is not None else ()
            if (found := next((one for one in series if one.place == f"joints.{joint.id}"), None)) is not None:
                ends = (shown(end, dimension, document.units, 2) for end in (found.low, found.high))
                text += f"    range {' … '.join(ends)}"
            base = self.frame.poses[joint.a.part][2]
            if dimension == Dimension.ANGLE:
                marks.angle_arrow(painter, here, base + joint.values.get("zero", 0.0), value, colour)
            else:
                angle = base + joint.values.get("direction", 0.0)
                start = self.view.pixel(self.frame.world(joint.a))
                end = start + QPointF(math.cos(angle), -math.sin(angle)) * (value * self.view.scale)
                marks.travel_arrow(painter, start, end, angle, colour)
        room = painter.fontMetrics().horizontalAdvance(text) + 24
        left = here.x() < self.view.width / 2
        if found_at is not None and not self.frame.playing:
            self.limits.draw(painter, self.frame, self.view, joint, *found_at)
        beside = here + QPointF(-room - 40 if left else 48, -34)
        self.limits.boxes.append(marks.label(painter, self.tokens, beside, text, colour))
        self.limits.draw_words(painter, self.tokens)


def grid_step(view: Viewport) -> float:
    """The round length between two lines of the grid."""
    wanted = 42 / max(view.scale, 1e-12)
    power = 10 ** math.floor(math.log10(wanted))
    return float(next(step * power for step in (1, 2, 5, 10) if step * power >= wanted))
