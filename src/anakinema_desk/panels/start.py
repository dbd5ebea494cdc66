"""What an empty bench offers first."""

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout, QWidget

from ..theme.labels import Label


class Start(QWidget):
    """The offers of an empty bench, each a button."""

    def __init__(self, offers: list[tuple[str, str, Callable[[], None]]], parent: QWidget):
        super().__init__(parent)
        layout = QVBoxLayout(self)
        layout.setSpacing(10)
        head = Label("Nothing on the bench yet")
        head.setProperty("role", "heading")
        head.setAlignment(Qt.AlignmentFlag.AlignCenter)
        layout.addWidget(head)
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        for row, (word, description, run) in enumerate(offers):
            button = QPushButton(word)
            button.clicked.connect(run)
            text = Label(description)
            text.setProperty("role", "muted")
            grid.addWidget(button, row, 0)
            grid.addWidget(text, row, 1)
        layout.addLayout(grid)

    def offer(self, wanted: bool) -> None:
        """Stands in the middle of what it lies over, or goes."""
        over = self.parentWidget()
        if wanted and over is not None:
            self.adjustSize()
            self.move(max((over.width() - self.width()) // 2, 4), max((over.height() - self.height()) // 2, 50))
        self.setVisible(wanted)
