"""The panel: which cam, the segment that is chosen, chart, profile, and what is to be said and proposed."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from anakinema.document.segments import Segment, merged, rest_of_turn, split
from anakinema.formatting import shown
from anakinema.laws import STANDARD

from ...session import Session
from ...soon import soon
from ...theme.choices import Choice
from ...theme.labels import Label, set_role, tip
from ...theme.tokens import Tokens
from ..fields import ExpressionField
from ..properties.cams import told
from .chart import Chart
from .model import CamModel
from .profile import ProfileView

if TYPE_CHECKING:
    from anakinema.studies.cam_proposals import CamProposal

SAID = {"base": "least radius", "lift": "rises by", "pressure": "pressure angle", "convex": "bulges with",
        "hollow": "hollow with", "undercut": "undercut", "face": "face needed", "sliding": "slides at",
        "jumps": "jumps"}  # fmt: skip
"""What is said of a cam, by its caption."""
ASKED_AFTER = 400
"""Milliseconds without a change after which it is asked what would be better."""
WIDE = 292
"""Width of what is said (pixels)."""
SHORT_REST = 1e-6


class CamDesk(QWidget):
    """A cam to look at and to work on."""

    write_wanted = Signal(str)
    """The profile of a cam is to be written to a file."""
    table_wanted = Signal(str)
    """The program of a cam is to be read from a table."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.model = CamModel(session)
        self.asked = 0
        self.proposals: list[CamProposal] = []
        self._known: object = None
        self.which = Choice()
        self.which.setAccessibleName("Cam")
        self.which.currentTextChanged.connect(self._choose)
        self.top = QHBoxLayout()
        self.top.setContentsMargins(12, 4, 12, 2)
        self.top.setSpacing(6)
        self.top.addWidget(self.which)
        self.segment = QWidget()
        self.fields = QHBoxLayout(self.segment)
        self.fields.setContentsMargins(0, 0, 0, 0)
        self.fields.setSpacing(6)
        self.top.addWidget(self.segment)
        self.top.addStretch(1)
        self.table = QPushButton("Table…")
        self.table.setToolTip("The program from a table of the shaft's coordinate and the follower's")
        self.table.clicked.connect(lambda: self.table_wanted.emit(self.model.joint))
        self.top.addWidget(self.table)
        self.write = QPushButton("Write…")
        self.write.setToolTip("The profile as a table, or as a drawing at true size")
        self.write.clicked.connect(lambda: self.write_wanted.emit(self.model.joint))
        self.top.addWidget(self.write)
        self.chart, self.profile = Chart(self.model, tokens), ProfileView(self.model, tokens)
        self.said = QVBoxLayout()
        self.said.setContentsMargins(8, 2, 14, 6)
        self.said.setSpacing(3)
        inner = QWidget()
        inner.setLayout(self.said)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setWidget(inner)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setFixedWidth(WIDE)
        self.values: dict[str, Label] = {}
        self.offers = QVBoxLayout()
        self._lay_said()
        self.empty = Label("No cam yet: take the tool Cam, click the part that turns, then the part it is to move.")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setProperty("role", "muted")
        row = QHBoxLayout()
        row.setSpacing(0)
        row.addWidget(self.chart, 5)
        row.addWidget(self.profile, 3)
        row.addWidget(area)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(self.top)
        layout.addLayout(row, 1)
        layout.addWidget(self.empty, 1)
        self.body = (self.which, self.segment, self.table, self.write, self.chart, self.profile, area)
        self.later = QTimer(self)
        self.later.setSingleShot(True)
        self.later.setInterval(ASKED_AFTER)
        self.later.timeout.connect(self._ask)
        session.document_changed.connect(soon(self, self.refresh))
        session.selection.changed.connect(soon(self, self._follow_selection))
        session.study_client.found.connect(self._found)
        self.model.changed.connect(self._say)
        self.model.changed.connect(self._lay_fields)
        self._laid: tuple[object, ...] = ()

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = self.chart.tokens = self.profile.tokens = tokens
        self.chart.update()
        self.profile.update()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        kind, name = self.session.selection.current()
        self.refresh(name if kind == "couplings" else "")

    # -- which -------------------------------------------------------------------------------------------------

    def _follow_selection(self) -> None:
        kind, name = self.session.selection.current()
        if self.isVisible() and kind == "couplings" and name in self.model.cams() and name != self.model.joint:
            self.refresh(name)

    def refresh(self, joint: str = "") -> None:
        """Shows the document as it is now."""
        if not self.isVisible():
            return
        names = self.model.cams()
        wanted = joint or self.model.joint
        wanted = wanted if wanted in names else (names[0] if names else "")
        if [self.which.itemText(k) for k in range(self.which.count())] != names:
            self.which.blockSignals(True)
            self.which.clear()
            self.which.addItems(names)
            self.which.blockSignals(False)
        self.which.blockSignals(True)
        self.which.setCurrentText(wanted)
        self.which.blockSignals(False)
        for widget in self.body:
            widget.setVisible(bool(names))
        self.empty.setVisible(not names)
        self.model.choose(wanted)
        self._offer([])
        self.later.start()

    def _choose(self, joint: str) -> None:
        if joint and joint != self.model.joint:
            self.refresh(joint)
            self.session.selection.select(f"joints.{joint}")

    # -- the segment -------------------------------------------------------------------------------------------

    def _lay_fields(self) -> None:
        """The fields of the segment that is chosen; laid anew where there are others."""
        document, coupling, segments = self.model.document, self.model.coupling, self.model.segments
        if self.model.held is not None:
            return
        key = (self.model.joint, self.model.number, tuple(segments or ()), coupling.program if coupling else "")
        if key == self._laid:
            return
        self._laid = key
        while (item := self.fields.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        if document is None or coupling is None:
            return
        if segments is None:
            self.fields.addWidget(Label(f"'{coupling.program}' is given by points: its card changes them"))
            return
        number = self.model.number = min(self.model.number, len(segments) - 1)
        one, place = segments[number], ("programs", coupling.program, "segments", number)
        self.fields.addWidget(Label(f"segment {number + 1} of {len(segments)}"))
        self._field("over", (*place, "over"), False)
        self._field("to", (*place, "to"), True)
        if one.to is not None:
            law = Choice()
            law.setAccessibleName("law")
            for each in STANDARD.values():
                law.addItem(each.name)
                law.setItemData(law.count() - 1, tip(each.description), Qt.ItemDataRole.ToolTipRole)
            law.setCurrentText(one.law)
            law.setToolTip(tip(STANDARD[one.law].description))
            law.currentTextChanged.connect(partial(self._law, number))
            self.fields.addWidget(law)
        self._button("Split", "Two segments in place of this one",
                     lambda: self._arrange(split(segments, number), "Split"))  # fmt: skip
        if len(segments) > 1:
            self._button("Remove", "Its neighbour lasts as long as both did",
                         lambda: self._arrange(merged(segments, number), "Remove"))  # fmt: skip
        rest = rest_of_turn(segments, coupling.law.period if coupling.law is not None else 0.0)
        if rest > SHORT_REST:
            left = shown(rest, self.model.turns, document.units, 2)
            self._button(f"Dwell for the other {left}", "What the program leaves of the turn, as a segment of its own",
                         lambda: self._arrange([*segments, Segment(rest, None, "uniform")], "Dwell"))  # fmt: skip

    def _field(self, caption: str, place: tuple[str | int, ...], optional: bool) -> None:
        label, field = Label(caption), ExpressionField(self.session, place, f"segment {caption}", optional=optional)
        label.setBuddy(field)
        field.setFixedWidth(84)
        self.fields.addWidget(label)
        self.fields.addWidget(field)

    def _button(self, text: str, hint: str, run: object) -> None:
        button = QPushButton(text)
        button.setToolTip(tip(hint))
        button.clicked.connect(run)
        self.fields.addWidget(button)

    def _arrange(self, segments: list[Segment], text: str) -> None:
        self.model.apply(segments, f"{text} segment of {self.model.joint}")

    def _law(self, number: int, law: str) -> None:
        coupling = self.model.coupling
        if coupling is None:
            return
        faults = self.session.edit(("programs", coupling.program, "segments", number, "law"), law, "Law of a segment")
        if faults:
            self.session.faults_raised.emit("The law stays", faults)

    # -- what is said ------------------------------------------------------------------------------------------

    def _lay_said(self) -> None:
        grid = QGridLayout()
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(1)
        grid.setColumnStretch(1, 1)
        for row, (what, caption) in enumerate(SAID.items()):
            name, value = Label(caption), Label()
            name.setProperty("role", "muted")
            value.setWordWrap(what == "jumps")
            grid.addWidget(name, row, 0, Qt.AlignmentFlag.AlignTop)
            grid.addWidget(value, row, 1)
            self.values[what] = value
        self.said.addLayout(grid)
        head = Label("PROPOSED")
        head.setProperty("role", "section")
        self.head = head
        self.said.addSpacing(4)
        self.said.addWidget(head)
        self.offers.setSpacing(4)
        self.said.addLayout(self.offers)
        self.said.addStretch(1)

    def _say(self) -> None:
        document, coupling, judgement = self.model.document, self.model.coupling, self.model.judgement()
        if document is None or coupling is None or judgement is None:
            return
        for what, label in self.values.items():
            label.setText(told(document, coupling, judgement, what))
        set_role(self.values["undercut"], "bad" if judgement.undercut else "")

    def _ask(self) -> None:
        document = self.model.document
        if document is not None and self.model.coupling is not None and self.isVisible():
            self.asked = self.session.study_client.study("cam_proposals", document, self.model.joint)

    def _found(self, number: int, found: object) -> None:
        if number == self.asked and isinstance(found, list):
            self._offer(found)

    def _offer(self, proposals: "list[CamProposal]") -> None:
        """What would be better, each with what it changes and a button that takes it."""
        self.proposals = proposals
        while (item := self.offers.takeAt(0)) is not None:
            if (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.head.setVisible(bool(proposals))
        for one in proposals:
            box = QWidget()
            grid = QGridLayout(box)
            grid.setContentsMargins(0, 0, 0, 0)
            grid.setVerticalSpacing(0)
            grid.setColumnStretch(0, 1)
            grid.addWidget(Label(one.title), 0, 0)
            take = QPushButton("Take")
            take.setAccessibleName(f"Take: {one.title}")
            take.clicked.connect(partial(self._take, one))
            grid.addWidget(take, 0, 1, Qt.AlignmentFlag.AlignTop)
            for row, told_of in enumerate(one.told[:4], 1):
                line = Label(f"{told_of.what}  {told_of.before} → {told_of.after}")
                line.setProperty("role", "muted")
                grid.addWidget(line, row, 0, 1, 2)
            self.offers.addWidget(box)

    def _take(self, proposal: "CamProposal") -> None:
        faults = self.session.apply(proposal.changes, proposal.title)
        if faults:
            self.session.faults_raised.emit("Not taken", faults)
