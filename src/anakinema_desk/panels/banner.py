"""The banner: what went wrong with a file, in full, until it is closed. It blocks nothing."""

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QVBoxLayout

from anakinema.errors import Fault

from ..theme.labels import Label

SHOWN = 6


class Banner(QFrame):
    """A headline and the faults, one a line."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("banner")
        self.head = Label()
        self.head.setProperty("role", "bad")
        self.body = Label()
        self.body.setWordWrap(True)
        self.body.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.close_button = QToolButton()
        self.close_button.setText("Close")
        self.close_button.clicked.connect(self.hide)
        texts = QVBoxLayout()
        texts.addWidget(self.head)
        texts.addWidget(self.body)
        layout = QHBoxLayout(self)
        layout.addLayout(texts, 1)
        layout.addWidget(self.close_button, alignment=Qt.AlignmentFlag.AlignTop)
        self.hide()

    def tell(self, headline: str, faults: Sequence[Fault]) -> None:
        """Shows a headline, and faults if there are any."""
        lines = [str(fault)[:300] for fault in faults[:SHOWN]]
        if len(faults) > SHOWN:
            lines.append(f"and {len(faults) - SHOWN} more")
        self.head.setText(headline)
        self.head.setProperty("role", "bad" if faults else "")
        self.head.style().unpolish(self.head)
        self.head.style().polish(self.head)
        self.body.setVisible(bool(lines))
        self.body.setText("\n".join(lines))
        self.show()
