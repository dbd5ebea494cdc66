"""The strip: one track for each joint and each clearance along the motion, under a ruler of the driver, with a play
head that scrubs everything."""

import csv
import io
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QWheelEvent
from PySide6.QtWidgets import QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from anakinema.formatting import in_document_units, shown
from anakinema.measures.jolts import describe

from ..canvas import marks
from ..session import Session
from ..soon import soon
from ..state import Shown, Stage
from ..theme.labels import Label, tip
from ..theme.painting import clear, painting
from ..theme.tokens import Tokens, font
from .curves import EDGE, LABELS, curves
from .curves import Shown as ShownTrack
from .tracks import TrackRow

if TYPE_CHECKING:
    from anakinema.document import Document
    from anakinema.findings import Findings
    from anakinema.findings.series import Series
    from anakinema.kinds import Dimension
    from anakinema.kinematics.motion import Motion


RULER = 24
MOST = 24
"""Tracks shown at once: each takes its time to make."""
NARROWEST = 0.002
"""Least share of the motion that is shown."""
MOST_JOLTS = 8
"""Jolts that a tip tells."""
SCROLL = 10
"""Width of the scroll bar beside the tracks."""


class Zoom(QObject):
    """The part of the motion that is shown, as shares of its time."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.low, self.high = 0.0, 1.0

    @property
    def whole(self) -> bool:
        """Whether all is shown."""
        return self.low == 0.0 and self.high == 1.0

    def show(self, low: float, high: float) -> None:
        """Shows another part."""
        size = min(max(high - low, NARROWEST), 1.0)
        self.low = min(max(low, 0.0), 1.0 - size)
        self.high = self.low + size
        self.changed.emit()

    def about(self, share: float, factor: float) -> None:
        """Shows more or less of it, about a share of the time."""
        self.show(share + (self.low - share) * factor, share + (self.high - share) * factor)

    def wheel(self, event: QWheelEvent, share: float) -> bool:
        """Ctrl and the wheel zoom, Shift and the wheel move along; whether that was meant."""
        turn = event.angleDelta().y() or event.angleDelta().x()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.about(self.low + share * (self.high - self.low), 1.0015**-turn)
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            step = (self.high - self.low) * turn / 1200
            self.show(self.low - step, self.high - step)
        else:
            return False
        return True


class Ruler(QWidget):
    """The driver's coordinate along the motion, or time where that tells more, with the play head's handle."""

    def __init__(self, session: Session, tokens: Tokens, zoom: Zoom):
        super().__init__()
        self.session, self.tokens, self.zoom = session, tokens, zoom
        zoom.changed.connect(self.update)
        self._known: tuple[Motion, float, tuple[str, bool, str, float, float]] | None = None
        """The scale of a motion of a length."""
        self._kept, self._motion = QPixmap(), session.motion
        self._shows: tuple[object, ...] = ()
        """What the picture that is kept shows."""
        self.setFixedHeight(RULER)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Ruler of the driver")

    def _run(self) -> float:
        """Width of the plots below."""
        return max(self.width() - LABELS - EDGE - SCROLL, 1)

    def _x(self, t: float) -> float:
        share = t / max(self.session.end, 1e-12)
        return LABELS + (share - self.zoom.low) / (self.zoom.high - self.zoom.low) * self._run()

    def _share(self, x: float) -> float:
        """The share of the plots at a pixel."""
        return min(max((x - LABELS) / self._run(), 0.0), 1.0)

    def _go(self, event: QMouseEvent) -> None:
        self.session.pause()
        share = self.zoom.low + self._share(event.position().x()) * (self.zoom.high - self.zoom.low)
        self.session.go(share * self.session.end)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if not self.zoom.wheel(event, self._share(event.position().x())):
            event.ignore()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.zoom.show(0.0, 1.0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._go(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._go(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        with painting(self) as painter:
            painter.drawPixmap(0, 0, self._ticks())
            if self._moving:
                x = self._x(self.session.time)
                painter.setPen(Qt.PenStyle.NoPen)
                painter.setBrush(QColor(self.tokens.text))
                painter.setClipRect(LABELS - 30, 0, self.width(), RULER)
                painter.drawPolygon([QPointF(x - 5, RULER - 8), QPointF(x + 5, RULER - 8), QPointF(x, RULER)])

    @property
    def _moving(self) -> bool:
        """Whether there is a motion of what is shown, along which something moves."""
        motion = self.session.motion
        return motion is not None and bool(motion.drive.drivers) and self.session.end != 0

    def jolts(self) -> str:
        """The jolts of the motion in words, a line each."""
        motion, document = self.session.motion, self.session.document
        if motion is None or document is None:
            return ""
        lines = [f"{shown(jolt.t, 'time', document.units)}: {describe(jolt).removeprefix('infinite: ')}"
                 for jolt in motion.jolts[:MOST_JOLTS]]  # fmt: skip
        more = [f"and {len(motion.jolts) - MOST_JOLTS} more"] * (len(motion.jolts) > MOST_JOLTS)
        return "\n".join([*lines, *more])

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            findings = self.session.findings
            caught = [f"caution: {one.text}" for one in findings.cautions if one.spans] if findings is not None else []
            self.setToolTip(tip("\n".join([*filter(None, [self.jolts()]), *caught[:MOST_JOLTS]])))
        return super().event(event)

    def _ticks(self) -> QPixmap:
        """All but the play head: kept, for only that moves from frame to frame."""
        ratio, motion = self.devicePixelRatioF(), self.session.motion
        known = self.session.findings is not None and self.session.findings.motion is motion
        shows = (id(motion), known, self.session.end, self.zoom.low, self.zoom.high, self.size(), self.tokens.name,
                 ratio)  # fmt: skip
        if shows != self._shows or self._motion is not motion:
            self._shows, self._motion = shows, motion
            self._kept = clear(self.size(), ratio)
            with painting(self._kept) as painter:
                self._paint(painter)
        return self._kept

    def _scale(self, motion: "Motion", document: "Document") -> "tuple[str, bool, str, float, float]":
        """What the ruler counts: its name, whether angles, the sign behind a number, its first and last value. The
        first driver's coordinate where it runs evenly, else time, for equal steps of it would lie unevenly."""
        end = self.session.end
        if self._known is not None and self._known[0] is motion and self._known[1] == end:
            return self._known[2]
        spots = [motion.driver_value(share * end) or 0.0 for share in (0.0, 0.27, 0.5, 0.81, 1.0)]
        span = spots[-1] - spots[0]
        even = span != 0.0 and all(abs(spots[0] + share * span - spot) <= 1e-6 * abs(span)
                                   for share, spot in zip((0.27, 0.5, 0.81), spots[1:-1], strict=True))  # fmt: skip
        found = ("time", False, " s", 0.0, end)
        if even:
            first, last = (in_document_units(value, motion.driver_dimension, document.units)
                           for value in (spots[0], spots[-1]))  # fmt: skip
            turns = motion.driver_dimension.turns
            sign = "°" if turns and document.units.angle == "deg" else ""
            found = (motion.drive.drivers[0].id, turns, sign, first, last)
        self._known = (motion, end, found)
        return found

    def _paint(self, painter: QPainter) -> None:
        motion, document = self.session.motion, self.session.document
        painter.setFont(font(8.5))
        muted = QColor(self.tokens.muted)
        painter.setPen(muted)
        if motion is None or document is None or not motion.drive.drivers or self.session.end == 0:
            painter.drawText(12, 0, 400, RULER, Qt.AlignmentFlag.AlignVCenter, "tracks of the version before")
            return
        end = self.session.end
        for jolt in motion.jolts:
            marks.jolt(painter, self.tokens, QPointF(min(self._x(jolt.t), LABELS + self._run() - 6), RULER - 4))
        findings = self.session.findings
        painter.setPen(QPen(QColor(self.tokens.warn), 2.0))
        for one in findings.cautions if findings is not None and findings.motion is motion else ():
            for start, stop in one.spans:
                painter.drawLine(QPointF(max(self._x(start), LABELS), RULER - 1),
                                 QPointF(max(self._x(stop), LABELS), RULER - 1))  # fmt: skip
        painter.setPen(muted)
        name, is_angle, sign, first, last = self._scale(motion, document)
        painter.drawText(12, 0, LABELS - 22, RULER, Qt.AlignmentFlag.AlignVCenter, name)
        low, high = (first + share * (last - first) for share in (self.zoom.low, self.zoom.high))
        painter.setClipRect(LABELS - 30, 0, self.width(), RULER)
        for value in ticks(low, high, max(2, int(self._run() / 80)), is_angle):
            share = (value - first) / (last - first) if last != first else 0.0
            x = self._x(share * end)
            painter.setPen(QPen(muted, 1))
            painter.drawLine(QPointF(x, RULER - 5), QPointF(x, RULER))
            text = f"{value:g}{sign}".replace("-", "−")
            painter.drawText(int(x) - 40, 0, 80, RULER - 5, Qt.AlignmentFlag.AlignCenter, text)


def ticks(first: float, last: float, most: int, angle: bool) -> list[float]:
    """Round values between two, at most so many; angles in steps that divide a turn."""
    span = abs(last - first)
    if span == 0:
        return [first]
    steps = [1, 2, 5, 10, 15, 30, 45, 90, 180, 360] if angle and span > 12 else []
    power = 10.0 ** np.floor(np.log10(span))
    steps += [power * k for k in (0.05, 0.1, 0.2, 0.5, 1.0)] if not steps else [360.0 * 10**k for k in range(1, 6)]
    step = next((step for step in steps if span / step <= most), steps[-1])
    low, high = min(first, last), max(first, last)
    count = np.arange(np.ceil(low / step - 1e-9), np.floor(high / step + 1e-9) + 1)
    return [float(round(value, 9)) + 0.0 for value in count * step]  # + 0.0: there is no minus zero on a ruler


class Timeline(QWidget):
    """Ruler and tracks."""

    menu_wanted = Signal(str, QPoint)
    """A click with the right button on a track: its series' place, and where on the screen."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setAccessibleName("Strip: the motion along the driver")
        self.tracks: list[TrackRow] = []
        self.entries: list[ShownTrack] = []
        self._spare: list[TrackRow] = []
        self.zoom = Zoom(self)
        self.zoom.changed.connect(self._zoomed)
        self.ruler = Ruler(session, tokens, self.zoom)
        self.body = QWidget()
        self.rows = QVBoxLayout(self.body)
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(0)
        self.left = Label()
        self.left.setProperty("role", "muted")
        self.left.setContentsMargins(12, 6, 12, 6)
        self.rows.addWidget(self.left)
        self.rows.addStretch(1)
        self.legend = Label()
        """What the dotted lines are, while a run lies beneath."""
        self.legend.setProperty("role", "muted")
        self.legend.setContentsMargins(12, 1, 12, 1)
        self.legend.hide()
        self._places: set[str] = set()
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.body)
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)
        self.area.verticalScrollBar().valueChanged.connect(lambda _: self.follow())
        self.empty = Label("No motion yet. A driver moves a joint through its range; its tracks appear here.")
        self.empty.setProperty("role", "muted")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.ruler)
        layout.addWidget(self.legend)
        layout.addWidget(self.area, 1)
        layout.addWidget(self.empty, 1)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        session.analysis.changed.connect(soon(self, self.rebuild))
        session.trying.pinned_changed.connect(soon(self, self.rebuild))
        session.editor.opened.connect(lambda: self.zoom.show(0.0, 1.0))
        self._again = soon(self, self.follow)
        session.time_changed.connect(self.follow)
        session.selection.changed.connect(self._selected)

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = self.ruler.tokens = tokens
        for track in (*self.tracks, *self._spare):
            track.tokens = tokens
        self.rebuild()

    def rebuild(self) -> None:
        """Shows the tracks of the findings, pale while they are those of a version before; widgets that are there
        already serve again."""
        now = self.session.analysis.shown
        findings = now.findings if now is not None and now.stage is not Stage.FAILED else None
        moving = findings is not None and findings.motion.path.t1 > 0 and bool(findings.motion.drive.drivers)
        fresh = now is not None and now.fresh
        found = curves(findings) if moving and findings is not None else []
        wanted = found[:MOST]
        selected = self.session.selection.place
        chosen = [entry for entry in found[MOST:] if selected and entry.series.place == selected]
        wanted = [*chosen, *wanted]
        self.left.setText(f"{len(found) - len(wanted)} more; a joint that is selected shows its own")
        self.left.setVisible(len(found) > len(wanted))
        self._places = {entry.series.place for entry in wanted}
        self.entries = wanted
        pinned = self.session.trying.pinned
        before = _pinned(pinned) if pinned is not None else {}
        self.legend.setVisible(moving and pinned is not None)
        self.legend.setText(f"━ this run     ┈ the run pinned {self.session.trying.pinned_when}     "
                            "in brackets: by how much this run differs from it at the head")  # fmt: skip
        while len(self.tracks) > len(wanted):
            self._spare.append(self.tracks.pop())
            self._spare[-1].hide()
        while len(self.tracks) < len(wanted):
            self.tracks.append(self._another())
            self.tracks[-1].show()
        for track, entry in zip(self.tracks, wanted, strict=True):
            track.show_curve(entry, fresh, before.get((entry.series.name, entry.series.dimension)))
        self.area.setVisible(moving)
        self.ruler.setVisible(moving)
        self.empty.setVisible(not moving)
        self.empty.setText(self._nothing(now))
        self.follow()

    def _another(self) -> "TrackRow":
        """One track more: of those put by, where there are any."""
        if self._spare:
            return self._spare.pop()
        track = TrackRow(self.session, self.tokens, self.zoom)
        track.menu_wanted.connect(self.menu_wanted)
        track.stale.connect(self._again)
        self.rows.insertWidget(len(self.tracks), track)
        return track

    @staticmethod
    def _nothing(now: Shown | None) -> str:
        """Why there is no track."""
        if now is not None and now.busy and now.document.drivers:
            return "Working out the motion…"
        if now is not None and now.stage is Stage.CANCELLED:
            return "Not judged: the analysis was given up."
        stop = now.findings.motion.stop if now is not None and now.findings is not None else None
        if now is not None and (now.stage is Stage.FAILED or (stop is not None and stop.t == 0.0)):
            return "No motion: see above what hinders it."
        return "No motion yet. A driver moves a joint through its range; its tracks appear here."

    def _zoomed(self) -> None:
        for track in self.tracks:
            track.show_range()

    def curves_csv(self) -> str:
        """The tracks that are shown, as a table over time, in document units."""
        document, findings = self.session.document, self.session.findings
        if document is None or findings is None:
            return ""
        t = findings.motion.state.t
        columns = [in_document_units(1.0, entry.series.dimension, document.units)
                   * entry.series.at(t) for entry in self.entries]  # fmt: skip
        out = io.StringIO()
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(["time", *(f"{entry.series.name} ({entry.series.dimension.written(document.units)})".replace(
            " ()", "") for entry in self.entries)])
        writer.writerows(np.stack([t, *columns], axis=1).tolist())
        return out.getvalue()

    def _selected(self) -> None:
        """A selected joint shows its track, even where there are too many to show all."""
        if self.left.isVisible() and self.session.selection.place.startswith("joints.") and (
            self.session.selection.place not in self._places
        ):
            self.rebuild()
        self.body.update()

    def follow(self) -> None:
        """Brings play heads and values to the moment shown."""
        motion = self.session.motion
        self.ruler.update()
        now = self.session.analysis.shown
        if motion is None or now is None or not now.fresh:  # curves of another version tell nothing of this one
            for track in self.tracks:
                track.untold()
            return
        coordinates = motion.system.coordinates
        values = self.session.posing.coordinates()
        for track in self.tracks:
            if track.visibleRegion().isEmpty():  # told when it is scrolled into sight
                continue
            assert track.curve is not None
            track.untold()
            kind, _, name = track.curve.place.partition(".")
            if kind == "tracks":
                self._follow_track(track, name)
            elif kind == "measures":
                self._follow_measure(track, name)
            elif track.curve.bars is not None:
                if self.session.posing.posed is None:
                    t = self.session.time
                    track.tell("touches" if any(a <= t <= b for a, b in track.curve.bars) else "apart")
            elif track.curve.parts is None:
                if name in coordinates:
                    track.follow(float(values[coordinates.index(name)]))
            elif self.session.posing.posed is None:  # clearances are told along the motion only
                track.follow(track.curve.near(self.session.time))

    def _follow_track(self, track: "TrackRow", name: str) -> None:
        """The value of a chosen track at the moment; by hand only that of a joint's coordinate or a measure is
        known."""
        document, motion = self.session.document, self.session.motion
        one = document.tracks.get(name) if document is not None else None
        assert track.curve is not None
        if one is None or motion is None:
            return
        measured = one.measured
        if self.session.posing.posed is None:
            track.follow(track.curve.near(self.session.time))
        elif measured.kind == "coordinate" and measured.joint in motion.system.coordinates:
            track.follow(float(self.session.posing.coordinates()[motion.system.coordinates.index(measured.joint)]))
        else:
            self._follow_measure(track, measured.id)

    def _follow_measure(self, track: "TrackRow", name: str) -> None:
        """The value of a measure of the document at the moment, where it can be told."""
        document = self.session.document
        value = self.session.posing.measured(name) if document is not None and name in document.measures else None
        if value is not None:
            track.follow(value)


def _pinned(findings: "Findings") -> "dict[tuple[str, Dimension], Series]":
    """The series of an earlier run by name and what they count."""
    every = [*findings.series, *(series for series in findings.tracks.values() if series is not None)]
    return {(series.name, series.dimension): series for series in every}
