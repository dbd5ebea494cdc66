"""The verdict line: mobility, checks, closest approach, what next; always in sight, each part leads to its place."""

from functools import partial

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QProgressBar, QSizePolicy, QToolButton, QWidget

from anakinema.document.model import Document
from anakinema.findings import Findings
from anakinema.findings.advice import Advice, advise_document
from anakinema.formatting import shown

from ..session import Session
from ..state import Shown, Stage
from ..theme.icons import icon
from ..theme.labels import Label, tip, words
from ..theme.tokens import Tokens


class VerdictLine(QFrame):
    """One line that sums up the findings."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setObjectName("verdict")
        self.setFixedHeight(40)
        self.mobility = self._button("Degrees of freedom with the drivers off")
        self.checks = self._button("Checks; opens the first that fails")
        self.closest = self._button("Closest approach of any two parts; goes there")
        self.next = self._button("What to mend next; goes there")
        self.next.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.next.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.next.setMinimumWidth(110)  # it gives way to the others, whatever it has to say
        self.more = self._button("All that is left to do")
        self.progress = QProgressBar()
        self.progress.setFixedSize(QSize(90, 6))
        self.progress.setTextVisible(False)
        self.progress.setRange(0, 100)
        self.progress.hide()
        self.cancel = self._button("Give up this analysis")
        self.cancel.setText("Cancel")
        self.cancel.hide()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 3, 10, 3)
        layout.setSpacing(4)
        for widget in (self.mobility, self._rule(), self.checks, self._rule(), self.closest, self._rule()):
            layout.addWidget(widget)
        layout.addWidget(self.next, 1)
        for widget in (self.more, self.progress, self.cancel):
            layout.addWidget(widget)
        self._advice: list[Advice] = []
        self._patience = QTimer(self)
        self._patience.setSingleShot(True)
        self._patience.setInterval(400)
        self._patience.timeout.connect(self._slow)
        self._next_text = ""
        self.checks.clicked.connect(self.go_checks)
        self.closest.clicked.connect(self._go_closest)
        self.next.clicked.connect(lambda: self._go(self._advice[0]) if self._advice else None)
        self.more.clicked.connect(self._show_all)
        self.mobility.clicked.connect(self._go_driver)
        self.cancel.clicked.connect(session.analysis.cancel)
        session.analysis.changed.connect(self.refresh)
        session.analysis.progress_changed.connect(self._progress)

    def _button(self, hint: str) -> QToolButton:
        button = QToolButton()
        button.setToolTip(tip(hint))
        button.setAccessibleDescription(hint)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        return button

    def _rule(self) -> QWidget:
        rule = Label("·")
        rule.setProperty("role", "muted")
        return rule

    def _role(self, button: QToolButton, colour: str, bold: bool = False) -> None:
        button.setStyleSheet(f"QToolButton {{ color: {colour}; font-weight: {600 if bold else 400}; }}")

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        self.refresh()

    def refresh(self) -> None:
        """Tells the findings, or what hinders them. What is of a version before stays in sight, greyed."""
        now = self.session.analysis.shown
        self.setEnabled(now is not None)
        if now is None:
            return
        if now.findings is None or now.stage is Stage.FAILED:
            self._tell_without(now)
        else:
            self._tell_mobility(now.findings)
            self._tell_checks(now.findings)
            self._tell_closest(now.findings, now.findings.document)
            self._tell_next(list(now.findings.advice))
        if now.stage is not Stage.FAILED and not now.fresh:
            for button in (self.mobility, self.checks, self.closest):
                self._role(button, self.tokens.muted)
            self._tell_stale(now)

    def _tell_stale(self, now: Shown) -> None:
        if now.stage is Stage.CANCELLED:
            self._tell_next([Advice("Not judged: the analysis was given up. Click to judge this version", "judge")])
        else:
            self._advice, self._next_text = [], "judging this version…"
            self.next.setIcon(icon("next", self.tokens.muted))
            self._role(self.next, self.tokens.muted)
            self.next.setToolTip("What stands here is of the version before, until this one is judged")
            self.more.hide()
            self._elide()

    def _tell_without(self, now: Shown) -> None:
        for button in (self.mobility, self.checks, self.closest):
            button.setText("–")
            self._role(button, self.tokens.muted)
        faults = [Advice(fault.text[0].upper() + fault.text[1:], fault.place) for fault in now.faults]
        self._tell_next(faults or advise_document(now.document))

    def _tell_mobility(self, findings: Findings) -> None:
        motion = findings.motion
        dof = motion.mobility.dof
        free = f"{dof} degree{'s' * (dof != 1)} of freedom"
        driven = ", ".join(driver.id for driver in motion.drive.drivers)
        self.mobility.setText(f"{free}, driven by {driven}" if driven else f"{free}, undriven")
        redundant = motion.mobility.redundant
        because = motion.mobility.because
        named = [f"{name} (says what {', '.join(because[name])} say together)" if because.get(name) else name
                 for name in redundant]  # fmt: skip
        hint = f"Redundant joints: {', '.join(named)}" if redundant else "No joint is redundant"
        self.mobility.setToolTip(tip(f"{hint}. Grübler count {motion.mobility.count}."))
        self._role(self.mobility, self.tokens.text)

    def _tell_checks(self, findings: Findings) -> None:
        total, failed, left = len(findings.verdicts), len(findings.failed), len(findings.open)
        if not total:
            text, colour = "no checks", self.tokens.muted
        elif failed:
            text = f"{failed} of {total} checks fail{'s' * (failed == 1)}" if total > 1 else "the check fails"
            text += f", {left - failed} not proven" if left > failed else ""
            colour = self.tokens.bad
        elif left:
            text, colour = f"{left} of {total} checks not proven", self.tokens.warn
        else:
            text = f"all {total} checks pass" if total > 1 else "the check passes"
            colour = self.tokens.good
        self.checks.setText(text)
        self._role(self.checks, colour, bold=True)

    def _tell_closest(self, findings: Findings, document: Document) -> None:
        closest = findings.closest
        if closest is None or closest.distance is None:
            self.closest.setText(
                "no distance found" if findings.approaches else "joined parts in one depth" if findings.same_depth
                else "no pair to watch"
            )
            self._role(self.closest, self.tokens.muted)
            return
        distance = shown(closest.distance, "length", document.units, 2)
        at = ""
        if closest.driver is not None:
            at = f" at {shown(closest.driver, findings.motion.driver_dimension, document.units, 1)}"
        word = "overlap" if closest.distance < 0 else "closest"
        word = word if closest.proven else f"{word} ≈"
        self.closest.setText(f"{word} {distance.lstrip('−')}, {closest.parts[0]}–{closest.parts[1]}{at}")
        self._role(self.closest, self.tokens.bad if closest.distance < 0 else self.tokens.text)

    def _tell_next(self, advice: list[Advice]) -> None:
        self._advice = advice
        self._next_text = advice[0].text if advice else "Nothing left to mend"
        self.next.setIcon(icon("next", self.tokens.warn) if advice else icon("next", self.tokens.muted))
        self._role(self.next, self.tokens.warn if advice else self.tokens.muted, bold=bool(advice))
        mends = bool(advice and advice[0].mend)
        self.next.setToolTip(tip(self._next_text + (". Click to do so" if mends else "")))
        self.more.setText(f"{len(advice) - 1} more")
        self.more.setVisible(len(advice) > 1)
        self._elide()

    def _elide(self) -> None:
        room = max(self.next.width() - 44, 60)
        self.next.setText(self.next.fontMetrics().elidedText(self._next_text, Qt.TextElideMode.ElideRight, room))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._elide()

    def _progress(self, share: float) -> None:
        if share >= 1.0:
            self._patience.stop()
            self.progress.hide()
            self.cancel.hide()
        elif not self._patience.isActive() and self.progress.isHidden():
            self._patience.start()
        elif self.progress.isVisible():
            self.progress.setValue(round(100 * share))

    def _slow(self) -> None:
        """Shows progress once an analysis takes longer than a blink."""
        self.progress.show()
        self.cancel.show()

    # -- leading there -----------------------------------------------------------------------------------------

    def _go(self, advice: Advice) -> None:
        self.session.pause()
        if advice.place == "judge":
            self.session.analysis.again()
            return
        if advice.mend:
            self.session.apply(list(advice.mend), advice.text.partition(": ")[2].capitalize())
        words = advice.place.split(".")
        self.session.selection.select(".".join(words[:2]) if len(words) > 1 else "")
        if advice.t is not None:
            self.session.go(advice.t)

    def go_checks(self) -> None:
        """Selects the first check that fails (else the first) and shows where it is worst."""
        findings = self.session.findings
        if findings is not None and findings.verdicts:
            verdict = next(iter([*findings.open, *findings.verdicts.values()]))
            self._go(Advice("", f"checks.{verdict.check.id}", verdict.t))

    def _go_closest(self) -> None:
        closest = self.session.findings.closest if self.session.findings else None
        if closest is not None:
            self.session.pause()
            self.session.go(closest.t)

    def _go_driver(self) -> None:
        document = self.session.document
        if document is not None and document.drivers:
            self.session.selection.select(f"drivers.{next(iter(document.drivers))}")

    def _show_all(self) -> None:
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        for advice in self._advice:
            menu.addAction(words(advice.text), partial(self._go, advice))
        menu.popup(self.more.mapToGlobal(self.more.rect().bottomLeft()))
