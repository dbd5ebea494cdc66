"""Tune one number: which values of a parameter give what is wanted, and a slider to try any of them."""

from collections.abc import Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from anakinema.document.model import Document
from anakinema.formatting import in_document_units, shown
from anakinema.operations import finding_words
from anakinema.studies.asked import finding, findings_of
from anakinema.studies.numbers import Dial, dial, held
from anakinema.studies.reports import dial_shown
from anakinema.studies.tuning import Tuning

from ...session import Session
from ...theme.choices import Slide
from ...theme.labels import Label, tip
from ...theme.tokens import Tokens
from .base import StudyPage, dials, fill
from .graphs import Curve

NOTCHES = 1000
MOST = 6
"""Solutions that are offered."""


class Tune(StudyPage):
    """Choose a parameter and a finding, say what is wanted."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__(session, tokens)
        self.found: Tuning | None = None
        self.parameter = self.choice("parameter", "The number that may change")
        self.finding = self.choice("finding", "What it is to change: a check's value, or an end of a joint's way")
        self.wanted = self.line("wanted", "What the finding is to be: 48, 48 mm, 2*throw")
        self.low = self.line("from", "Least value allowed", "half of what it is")
        self.high = self.line("to", "Greatest value allowed", "one and a half of it")
        self.graph = Curve(tokens)
        self.graph.title = "Say what is wanted, and find: the curve of the finding over the parameter appears here.\n" \
                           "The slider tries any value at once; nothing is changed until it is taken."
        self.slider = Slide(Qt.Orientation.Horizontal)
        self.slider.setRange(0, NOTCHES)
        self.slider.setAccessibleName("Try a value")
        self.trial = Label()
        self.trial.setMinimumWidth(84)
        self.slider.setMinimumWidth(70)
        self.take_trial, self.leave = QPushButton("Take it"), QPushButton("Leave it")
        below = QHBoxLayout()
        below.setContentsMargins(78, 0, 14, 6)
        below.setSpacing(6)
        below.addWidget(Label("What if"))
        below.addWidget(self.slider, 1)
        below.addWidget(self.trial)
        below.addWidget(self.take_trial)
        below.addWidget(self.leave)
        middle = QVBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.graph, 1)
        middle.addLayout(below)
        self.layout_.addLayout(middle, 1)
        self.answers = QWidget()
        self.answers.setFixedWidth(196)
        self.offers = QVBoxLayout(self.answers)
        self.offers.setContentsMargins(6, 8, 12, 8)
        self.offers.setSpacing(4)
        self.offers.addStretch(1)
        self.layout_.addWidget(self.answers)
        self._offered: list[QWidget] = []
        self.parameter.currentTextChanged.connect(self._other)
        self.finding.currentTextChanged.connect(lambda _: self._other_finding())
        self.slider.valueChanged.connect(self._slid)
        self.graph.turned.connect(self._to)
        self.take_trial.clicked.connect(self._take_trial)
        self.leave.clicked.connect(self._drop)
        session.trying.changed.connect(self._tried)
        self._show_trial(None)

    # -- the form ----------------------------------------------------------------------------------------------

    def refresh(self) -> None:
        document = self.session.document
        if document is None:
            return
        fill(self.parameter, [one.name for one in dials(document)])
        fresh = self.finding.count() == 0
        fill(self.finding, findings_of(document), partial(finding_words, document))
        if fresh or not self.wanted.text():
            self._propose(document)
        possible = self.parameter.count() > 0 and self.finding.count() > 0
        self.run.setEnabled(possible)
        self.slider.setEnabled(self.parameter.count() > 0)
        if not self.parameter.count():
            self.say("There are no parameters yet: type rod = 40 in any field to make one.")
        elif self.message.text().startswith("There are no parameters"):
            self.say("")
        if not self.slider.isSliderDown() and self.session.trying.motion is None:
            self._show_trial(None)

    def results(self) -> Sequence[QWidget]:
        return self.graph, self.answers

    def forget(self) -> None:
        self._clear()
        for field in (self.wanted, self.low, self.high):
            field.clear()

    def _propose(self, document: Document) -> None:
        """Proposes what is checked and does not hold yet, with the bound that it misses."""
        findings = self.session.findings
        verdict = next(iter(findings.failed), None) if findings is not None else None
        place = self.finding.findData(f"checks.{verdict.check.id}") if verdict is not None else -1
        if verdict is None or place < 0 or self.found is not None:
            return
        bounds = [bound for bound in (verdict.check.at_least, verdict.check.at_most) if bound is not None]
        if self.wanted.placeholderText() == "" and bounds:
            self.finding.setCurrentIndex(place)
        if bounds and self.finding.currentIndex() == place:
            value = in_document_units(bounds[0], verdict.dimension, document.units)
            self.wanted.setPlaceholderText(f"{value:.9g}")

    def choose(self, parameter: str) -> None:
        """Takes a parameter to tune."""
        self.refresh()
        self.parameter.setCurrentText(parameter)

    def _other_finding(self) -> None:
        self.wanted.setPlaceholderText("")
        self._clear()

    def _other(self, _: str) -> None:
        self._clear()
        self._drop()

    def _clear(self) -> None:
        """Nothing is found of what the form says now."""
        self.found = None
        self.graph.line, self.graph.marks, self.graph.gaps = [], [], []
        self.graph.wanted = self.graph.now = None
        self.graph.update()
        self._offer(())

    def _dial(self) -> Dial | None:
        document, name = self.session.document, self.parameter.currentText()
        return dial(document, name) if document is not None and name in held(document) else None

    def _range(self) -> tuple[float, float]:
        """The range of the slider (the parameter's own unit)."""
        one = self._dial()
        if one is None:
            return 0.0, 1.0
        if self.found is not None:
            return float(self.found.curve[0, 0]), float(self.found.curve[-1, 0])
        spread = abs(one.value) / 2 or 1.0
        return one.value - spread, one.value + spread

    # -- finding -----------------------------------------------------------------------------------------------

    def ask(self) -> int:
        document, motion = self.session.document, self.session.motion
        assert document is not None
        asked = finding(document, self.finding.currentData())
        wanted = self.number(self.wanted.text() or self.wanted.placeholderText(), asked.dimension, "wanted")
        name = self.parameter.currentText()
        low, high = self.turned(name, self.low.text(), "from"), self.turned(name, self.high.text(), "to")
        if motion is None or motion.document is not document:
            from anakinema.errors import located

            raise located("", "the motion is not known yet; ask again in a moment")
        self._drop()
        return self.session.study_client.study("tune", document, motion, name, asked.name, wanted, low, high)

    def take(self, found: object) -> bool:
        document = self.session.document
        if not isinstance(found, Tuning) or document is None:
            return False
        self.found = found
        one, units = found.dial, document.units
        curve, graph = found.curve, self.graph
        graph.line = [(x, y) for x, y in curve.tolist()]
        graph.wanted = found.wanted
        graph.across = (float(curve[0, 0]), float(curve[-1, 0]))
        graph.up = graph.around([*(y for _, y in graph.line), found.wanted])
        graph.marks = [(value, found.wanted) for value in found.solutions]
        graph.gaps = [(gap.low, gap.high) for gap in found.breaks]
        graph.titles = (one.name, finding_words(document, found.finding.name))
        graph.words = (lambda x: dial_shown(float(f"{x:.4g}"), one.unit),
                       lambda y: shown(y, found.finding.dimension, units, 2))
        graph.now = one.value
        graph.update()
        self._offer(found.solutions[:MOST])
        text = []
        if not found.solutions:
            text.append("Nothing in the range gives it.")
        if found.flat:
            text.append(f"{one.name} does not change it.")
        elif found.nearest is not None:
            at, value = found.nearest
            text.append(f"The nearest that can be had is {shown(value, found.finding.dimension, units)}, "
                        f"at {dial_shown(at, one.unit)}.")
        for gap in found.breaks[:2]:
            text.append(f"From {dial_shown(float(f'{gap.low:.6g}'), one.unit)} to "
                        f"{dial_shown(float(f'{gap.high:.6g}'), one.unit)}: {gap.reason}.")
        self.say(" ".join(text) or f"{len(found.solutions)} found.")
        self._show_trial(None)
        return True

    def _offer(self, values: "tuple[float, ...]") -> None:
        for widget in self._offered:
            widget.hide()
            widget.deleteLater()
        self._offered = []
        one = self._dial()
        if one is None:
            return
        for value in values:
            rounded = self.found.rounded(value) if self.found is not None else value
            button = QPushButton(f"{one.name} = {dial_shown(rounded, one.unit)}")
            button.setToolTip(tip(f"Tries it; nothing is changed until it is taken. Found: "
                                  f"{dial_shown(value, one.unit)}"))  # fmt: skip
            button.clicked.connect(lambda _=False, value=rounded: self._try(value))
            self.offers.insertWidget(len(self._offered), button)
            self._offered.append(button)

    # -- what if -----------------------------------------------------------------------------------------------

    def _slid(self, notch: int) -> None:
        low, high = self._range()
        self._try(float(f"{low + (high - low) * notch / NOTCHES:.5g}"))

    def _to(self, value: float) -> None:
        """Tries the value under the pointer."""
        low, high = self._range()
        self.slider.setValue(round(NOTCHES * (value - low) / (high - low or 1.0)))

    def _try(self, value: float) -> None:
        one, motion = self._dial(), self.session.motion
        if one is None or motion is None or motion.document is not self.session.document:
            return
        self._value = value
        self.graph.now = self._value
        self.graph.update()
        self._show_trial(self._value)
        self.session.trying.turn(motion, {one.name: one.written(self._value)})

    def _tried(self) -> None:
        trying = self.session.trying
        if trying.fault:
            self.say(trying.fault, bad=trying.motion is None)
        elif trying.motion is not None:
            self.say("What is tried is drawn solid, what is there pale.")
        if trying.motion is None and not trying.fault:
            self._show_trial(None)

    def _show_trial(self, value: float | None) -> None:
        one = self._dial()
        for button in (self.take_trial, self.leave):
            button.setEnabled(value is not None)
        if one is None:
            self.trial.setText("")
            return
        self.trial.setText(dial_shown(one.value if value is None else value, one.unit))
        if value is None:
            low, high = self._range()
            self.slider.blockSignals(True)
            self.slider.setValue(round(NOTCHES * (one.value - low) / (high - low or 1.0)))
            self.slider.blockSignals(False)
            self.graph.now = one.value if self.found is not None else None
            self.graph.update()

    def _take_trial(self) -> None:
        if self.take_trial.isEnabled():
            self.session.take_trial()

    def _drop(self) -> None:
        self.session.trying.drop()
        self._show_trial(None)
