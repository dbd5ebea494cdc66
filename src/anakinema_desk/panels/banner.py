"""The banner: what there is to tell, over the bench, until it is closed. It blocks nothing and moves nothing; what it
said before can be had again."""

from collections import deque
from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from anakinema.errors import Fault

from ..theme.labels import Label
from .overlay import Overlay

MARKS = {"note": ("i", ""), "warning": ("!", "warn"), "fault": ("×", "bad")}
"""How each level is marked, and the role of its mark and headline."""
SHOWN, KEPT = 6, 20
"""Faults that are shown of one message; messages that can be had again."""
WIDEST, ASIDE, TOP = 640, 12, 44
"""Width at most, and how far from the sides and the top of the bench it lies (pixels)."""


class Banner(Overlay):
    """A headline and the lines below it. A note says what is done or to be done; a warning what to know of what goes on
    all the same; a fault what was not done. They differ by mark, edge and colour."""

    def __init__(self, bench: QWidget) -> None:
        super().__init__(bench)
        self.setObjectName("banner")
        self.mark, self.head, self.body = Label(), Label(), Label()
        self.mark.setObjectName("mark")
        for label in (self.head, self.body):
            label.setWordWrap(True)
        self.body.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.close_button = QToolButton()
        self.close_button.setText("Close")
        self.close_button.clicked.connect(self.hide)
        texts = QVBoxLayout()
        texts.addWidget(self.head)
        texts.addWidget(self.body)
        texts.addStretch(1)
        layout = QHBoxLayout(self)
        layout.addWidget(self.mark, alignment=Qt.AlignmentFlag.AlignTop)
        layout.addLayout(texts, 1)
        layout.addWidget(self.close_button, alignment=Qt.AlignmentFlag.AlignTop)
        self.told: deque[tuple[str, tuple[Fault, ...], str]] = deque(maxlen=KEPT)

    def tell(self, headline: str, faults: Sequence[Fault] = (), level: str = "note") -> None:
        """Shows a headline, and faults if there are any, at a level: note, warning or fault."""
        self.told.append((headline, tuple(faults), level))
        self._show(headline, faults, level)

    def again(self) -> None:
        """Shows what was told last; while that is shown, what was told before."""
        if not self.told:
            return
        if self.isVisible():
            self.told.rotate(1)
        self._show(*self.told[-1])

    def _show(self, headline: str, faults: Sequence[Fault], level: str) -> None:
        lines = [str(fault)[:300] for fault in faults[:SHOWN]]
        if len(faults) > SHOWN:
            lines.append(f"and {len(faults) - SHOWN} more")
        mark, role = MARKS[level]
        self.mark.setText(mark)
        self.mark.setAccessibleName(level)
        self.head.setText(headline)
        self.setProperty("level", level)
        for label in (self.mark, self.head):
            label.setProperty("role", role)
        for widget in (self, self.mark, self.head):
            widget.style().unpolish(widget)
            widget.style().polish(widget)
        self.body.setVisible(bool(lines))
        self.body.setText("\n".join(lines))
        self.show()
        self.place()
        self.raise_()

    def place(self) -> None:
        """At the top of the bench, as high as its words need."""
        wide = max(min(self.bench.width() - 2 * ASIDE, WIDEST), 80)
        if (layout := self.layout()) is not None:
            layout.invalidate()
        high = self.heightForWidth(wide)
        self.setGeometry((self.bench.width() - wide) // 2, TOP, wide, min(high, max(self.bench.height() - TOP, 40)))
