"""Arrange layers: the fewest in which nothing collides, as a proposal."""

from collections.abc import Sequence

from PySide6.QtWidgets import QPushButton, QTableWidgetItem, QVBoxLayout, QWidget

from anakinema.errors import DocumentError, Fault, suggestion
from anakinema.formatting import shown
from anakinema.kinds import Dimension
from anakinema.studies.arranging import Arrangement, changes_of
from anakinema.studies.layer_reports import clash_words

from ...session import Session
from ...theme.tokens import Tokens
from .base import StudyPage, table

HEADS, WIDTHS = ("Layer", "Part", "Lies from … to", "Would lie from … to"), (60, 200, 150)


class LayersPage(StudyPage):
    """Which parts stay, what is left between layers; the proposal as a table from the front."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__(session, tokens)
        self.found: Arrangement | None = None
        self.hold = self.line("these stay", "Parts that keep their depth, fixed ones always do", "names, with commas")
        self.gap = self.line("gap between", "What is left between two layers", "0")
        self.run.setText("Arrange")
        self.table = table(HEADS, WIDTHS, "The layers from the front")
        self.use = QPushButton("Take it")
        self.use.setEnabled(False)
        side = QVBoxLayout()
        side.setContentsMargins(4, 8, 12, 8)
        side.addWidget(self.use)
        side.addStretch(1)
        self.layout_.addWidget(self.table, 1)
        self.layout_.addLayout(side)
        self.use.clicked.connect(self.take_it)

    def results(self) -> Sequence[QWidget]:
        return self.table, *((self.use,) if self.found is not None and self.found.moves else ())

    def forget(self) -> None:
        self.found = None
        self.table.setRowCount(0)
        self.use.setEnabled(False)

    def ask(self) -> int:
        document = self.session.document
        assert document is not None
        held = [name.strip() for name in self.hold.text().split(",") if name.strip()]
        for name in held:
            if name not in document.parts:
                near = suggestion(name, list(document.parts))
                raise DocumentError([Fault("", f"there is no part '{name}'{near}")])
        gap = self.number(self.gap.text() or "0", Dimension.LENGTH, "gap between")
        return self.session.study_client.study("arrange", document, held, gap)

    def take(self, found: object) -> bool:
        document = self.session.document
        if not isinstance(found, Arrangement) or document is None:
            return False
        self.found = found
        if not found.possible:
            self.table.setRowCount(0)
            clashes = "; ".join(dict.fromkeys(clash_words(document, clash) for clash in found.clashes[:6]))
            self.say(f"No order keeps these out of each other's way: {clashes}", bad=True)
            return True
        after = {move.part: move.after for move in found.moves}
        rows = [(number, name) for number, parts in enumerate(found.layers, 1) for name in parts][::-1]
        self.table.setRowCount(len(rows))
        for row, (number, name) in enumerate(rows):
            span = document.parts[name].slabs[0].low, document.parts[name].slabs[-1].high
            texts = (str(number), document.parts[name].name, self._span(span),
                     self._span(after[name]) if name in after else "stays")  # fmt: skip
            for column, text in enumerate(texts):
                self.table.setItem(row, column, QTableWidgetItem(text))
        least = "fewer are impossible" if found.proven else "not proven least"
        moved = f"{len(found.moves)} parts would move" if found.moves else "nothing has to move"
        self.say(f"{len(found.layers)} layers, {least}; {moved}.")
        return True

    def _span(self, span: tuple[float, float]) -> str:
        document = self.session.document
        assert document is not None
        return " to ".join(shown(end, "number", document.units, 3) for end in span)

    def take_it(self) -> None:
        """Puts the parts where the proposal says, in one step."""
        document = self.session.document
        if self.found is None or document is None or self.of is not document:
            return
        faults = self.session.apply(changes_of(document, self.found), "Arrange layers")
        if faults:
            self.session.faults_raised.emit("Not arranged", faults)

