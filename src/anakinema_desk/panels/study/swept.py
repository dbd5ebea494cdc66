"""Swept area: what a part or a group sweeps over the motion, as a ghost on the bench and as a drawing."""

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from anakinema.clearance.swept import Swept
from anakinema.formats.areas import area_dxf
from anakinema.kinds import Dimension
from anakinema.studies.layer_reports import swept_text

from ...session import Session
from ...theme.labels import Label
from ...theme.tokens import Tokens
from .base import StudyPage, fill

FRAME = "the frame"
ALL = "all that moves"


class SweptPage(StudyPage):
    """Choose what sweeps, seen from what, and what is kept free around it."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__(session, tokens)
        self.found: Swept | None = None
        self.what = self.choice("what sweeps", "A part, a group, or all that moves")
        self.on = self.choice("seen from", "The frame, or a part in whose axes it is drawn")
        self.room = self.line("kept free around", "As a guard must leave it", "0")
        self.run.setText("Sweep")
        self.told = Label()
        self.told.setWordWrap(True)
        self.save = QPushButton("Save the outline…")
        self.away = QPushButton("Take the ghost away")
        for button in (self.save, self.away):
            button.setEnabled(False)
        side = QVBoxLayout()
        side.setContentsMargins(12, 10, 12, 8)
        side.setSpacing(6)
        side.addWidget(self.told)
        side.addWidget(self.save)
        side.addWidget(self.away)
        side.addStretch(1)
        self.layout_.addLayout(side, 1)
        self.save.clicked.connect(self.save_outline)
        self.away.clicked.connect(self.take_away)

    def refresh(self) -> None:
        document = self.session.document
        if document is not None:
            shaped = [name for name, part in document.parts.items() if part.slabs]
            fill(self.what, [ALL, *shaped, *document.groups])
            fill(self.on, [FRAME, *shaped])

    def results(self) -> Sequence[QWidget]:
        return self.told, self.save

    def forget(self) -> None:
        self.found = None
        self.told.setText("")
        self.session.display_state.show_swept(None)
        for button in (self.save, self.away):
            button.setEnabled(False)

    def ask(self) -> int:
        document = self.session.document
        assert document is not None
        what, on = self.what.currentData(), self.on.currentData()
        names = [what]
        if what == ALL:
            names = [name for name, part in document.parts.items() if part.slabs and not part.fixed]
        room = self.number(self.room.text() or "0", Dimension.LENGTH, "kept free around")
        return self.session.study_client.study("swept", document, names, "" if on == FRAME else on, room)

    def take(self, found: object) -> bool:
        document = self.session.document
        if not isinstance(found, Swept) or document is None:
            return False
        self.found = found
        self.told.setText(swept_text(document, found).strip())
        self.session.display_state.show_swept(found)
        for button in (self.save, self.away):
            button.setEnabled(True)
        return True

    def take_away(self) -> None:
        """Shows the ghost no longer."""
        self.session.display_state.show_swept(None)
        self.away.setEnabled(False)

    def save_outline(self) -> None:
        """Writes the outline as DXF."""
        document = self.session.document
        if self.found is None or document is None:
            return
        path, _ = QFileDialog.getSaveFileName(self, "Save the outline", "swept.dxf", "DXF drawing (*.dxf)")
        if path:
            self.session.write(Path(path), area_dxf(self.found, document.units.length))
