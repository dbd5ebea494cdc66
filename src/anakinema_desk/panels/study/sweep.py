"""Sweep: values of one parameter or two, as a map of what passes and a table."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtWidgets import QCheckBox, QFileDialog, QPushButton, QVBoxLayout, QWidget

from anakinema.errors import located
from anakinema.formatting import shown
from anakinema.operations import finding_words
from anakinema.studies.asked import all_judged, findings_of
from anakinema.studies.reports import dial_shown
from anakinema.studies.sweeping import Sweep, rows, table_csv

from ...session import Session
from ...theme.tokens import Tokens
from .base import StudyPage, dials, fill
from .graphs import Map

NONE = "—"


class SweepPage(StudyPage):
    """Choose one parameter or two, with how many values from where to where."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__(session, tokens)
        self.found: Sweep | None = None
        hint = "From, to and how many: 12 : 18 : 13"
        self.one = self.choice("across", "The parameter along the map")
        self.one_range = self.line("its values", hint, "from : to : how many")
        self.two = self.choice("up", "A second parameter, or none")
        self.two_range = self.line("its values", hint, "from : to : how many")
        self.told_too = self.choice("tell", "A finding that is written into the cells")
        self.clearance = QCheckBox("with clearances (slower)")
        self.left.insertWidget(1, self.clearance)
        self.run.setText("Sweep")
        self.map = Map(tokens)
        self.map.title = "Choose a parameter and its values: the map shows for which all checks pass.\n" \
                         "A click on a cell tells what it is; the mechanism is tried with it."
        self.use = QPushButton("Take the cell")
        self.use.setEnabled(False)
        self.save = QPushButton("Save the table…")
        self.save.setEnabled(False)
        side = QVBoxLayout()
        side.setContentsMargins(4, 8, 12, 8)
        side.setSpacing(6)
        side.addWidget(self.use)
        side.addWidget(self.save)
        side.addStretch(1)
        self.layout_.addWidget(self.map, 1)
        self.layout_.addLayout(side)
        self.map.chosen.connect(self._chosen)
        for box in (self.one, self.two):
            box.currentTextChanged.connect(lambda _: self.refresh())
        self.use.clicked.connect(self.session.take_trial)
        self.save.clicked.connect(self.save_table)

    def refresh(self) -> None:
        document = self.session.document
        if document is None:
            return
        turned = [one.name for one in dials(document)]
        fill(self.one, turned)
        fill(self.two, [NONE, *turned])
        names = findings_of(document)
        fill(self.told_too, [NONE, *names], lambda name: finding_words(document, name) if name != NONE else name)
        self.run.setEnabled(bool(turned))
        for box, field in ((self.one, self.one_range), (self.two, self.two_range)):
            one = next((each for each in dials(document) if each.name == box.currentText()), None)
            if one is not None and not field.text():
                low, high = (dial_shown(float(f"{one.value * share:.4g}"), one.unit) for share in (0.8, 1.2))
                field.setPlaceholderText(f"{low} : {high} : 9".replace("−", "-"))

    def results(self) -> Sequence[QWidget]:
        return self.map, self.save, *((self.use,) if self.map.picked is not None else ())

    def forget(self) -> None:
        self.found = None
        self.map.states, self.map.numbers, self.map.picked = [], [], None
        self.map.columns = self.map.rows = 0
        self.use.setEnabled(False)
        for field in (self.one_range, self.two_range):
            field.clear()
        self.map.update()

    def ask(self) -> int:
        document = self.session.document
        assert document is not None
        axes = [self._axis(self.one.currentText(), self.one_range.text() or self.one_range.placeholderText())]
        if self.two.currentText() != NONE:
            axes.append(self._axis(self.two.currentText(), self.two_range.text() or self.two_range.placeholderText()))
        also = [] if self.told_too.currentData() == NONE else [self.told_too.currentData()]
        return self.session.study_client.study("sweep", document, axes, also, self.clearance.isChecked(), None, None)

    def _axis(self, name: str, text: str) -> tuple[str, float, float, int]:
        pieces = [piece.strip().replace("°", " deg") for piece in text.split(":")]
        if len(pieces) != 3 or not pieces[2].isdecimal():
            raise located("", f"{name}: say from, to and how many, as 12 : 18 : 13")
        low, high = (self.turned(name, piece, name) for piece in pieces[:2])
        if low is None or high is None:
            raise located("", f"{name}: say from where to where")
        return name, low, high, int(pieces[2][:8])

    def take(self, found: object) -> bool:
        document = self.session.document
        if not isinstance(found, Sweep) or document is None:
            return False
        self.found = found
        across, up = found.axes[0], found.axes[1] if len(found.axes) == 2 else None
        self.map.columns, self.map.rows = len(across.values), len(up.values) if up is not None else 1
        order = [column * self.map.rows + row for row in range(self.map.rows) for column in range(self.map.columns)]
        self._order = order
        builds = [found.builds[k] for k in order]
        good = "passes" if document.checks and not found.left_out else "open"
        self.map.states = ["breaks" if build.broken or build.stopped else good if build.passes else "fails"
                           for build in builds]  # fmt: skip
        self.map.numbers = []
        if found.findings:
            one = found.findings[0]
            values = [build.values.get(one.name) for build in builds]
            self.map.numbers = ["" if value is None else shown(value, one.dimension, document.units, 2)
                                for value in values]  # fmt: skip
        self.map.picked = None
        self.map.across, self.map.up = _edges(across.values), _edges(up.values) if up is not None else (0.0, 1.0)
        self.map.titles = (across.dial.name, up.dial.name if up is not None else "")
        self.map.words = (lambda x: dial_shown(float(f"{x:.4g}"), across.dial.unit),
                          lambda y: dial_shown(float(f"{y:.4g}"), up.dial.unit) if up is not None else "")
        self.map.update()
        passing, broken = self.map.states.count(good), self.map.states.count("breaks")
        judged = all_judged(document, found.left_out)
        self.say(f"{len(builds)} builds: {len(builds) - passing - broken} fail; {passing} pass {judged}"
                 + (f", {broken} do not move to their end" if broken else "") + ".")  # fmt: skip
        self.save.setEnabled(True)
        self.use.setEnabled(False)
        return True

    def _chosen(self, cell: int) -> None:
        found, document = self.found, self.session.document
        if found is None or document is None:
            return
        number = self._order[cell]
        build, values = found.builds[number], found.values(number)
        words = [f"{axis.dial.name} = {dial_shown(float(f'{value:.9g}'), axis.dial.unit)}"
                 for axis, value in zip(found.axes, values, strict=True)]  # fmt: skip
        trouble = build.broken or build.stopped
        failing = [name for name, outcome in build.outcomes.items() if outcome != "pass"]
        end = trouble or (f"not passing: {', '.join(failing)}" if failing else
                          f"it passes {all_judged(document, found.left_out)}")  # fmt: skip
        self.say(f"{', '.join(words)}: {end}.", bad=bool(trouble or failing))
        self.use.setEnabled(True)
        motion = self.session.motion
        if motion is not None and motion.document is document:
            self.session.trying.turn(motion, dict(build.numbers))

    def save_table(self) -> None:
        """Writes the table as CSV."""
        if self.found is None:
            return
        name, _ = QFileDialog.getSaveFileName(self, "Save the table", "sweep.csv", "Tables (*.csv)")
        if name:
            self.session.write(Path(name), table_csv(*rows(self.found)).encode())


def _edges(values: Sequence[float]) -> tuple[float, float]:
    """From where to where cells reach whose middles are evenly spaced values."""
    half = (values[-1] - values[0]) / (len(values) - 1) / 2
    return values[0] - half, values[-1] + half
