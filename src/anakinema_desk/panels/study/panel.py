"""The panel of studies: one page for each, made when it is first looked at."""

from collections.abc import Callable

from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from anakinema.studies.types import STUDY_TYPES

from ...session import Session
from ...soon import soon
from ...theme.tokens import Tokens
from .base import StudyPage
from .graphs import Graph

WITH_PAGE = ("tune", "sweep", "tolerances", "trials", "arrange", "swept")
PAGES = {**{name: STUDY_TYPES[name].title for name in WITH_PAGE}, "plot": "Plot"}
"""What has a page, with what it is called."""


def page_of(name: str) -> "Callable[[Session, Tokens], QWidget]":
    """What makes a page; loaded when it is first looked at."""
    from .layers import LayersPage
    from .plot import Plot
    from .sweep import SweepPage
    from .swept import SweptPage
    from .tolerances import TolerancesPage
    from .trials import Trials
    from .tune import Tune

    pages: dict[str, Callable[[Session, Tokens], QWidget]] = {
        "tune": Tune, "sweep": SweepPage, "tolerances": TolerancesPage, "trials": Trials, "arrange": LayersPage,
        "swept": SweptPage, "plot": Plot}  # fmt: skip
    return pages[name]


class Studies(QWidget):
    """A column of names, and the page that is chosen."""

    def __init__(self, session: Session, tokens: Tokens):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.pages: dict[str, QWidget] = {}
        self.chosen = ""
        self.stack = QStackedWidget()
        self.buttons: dict[str, QToolButton] = {}
        self.group = QButtonGroup(self)
        column = QVBoxLayout()
        column.setContentsMargins(8, 8, 4, 8)
        column.setSpacing(2)
        for name, title in PAGES.items():
            button = QToolButton()
            button.setText(title)
            button.setCheckable(True)
            button.setMinimumWidth(92)
            button.clicked.connect(lambda _=False, name=name: self.choose(name))
            self.group.addButton(button)
            self.buttons[name] = button
            column.addWidget(button)
        column.addStretch(1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(column)
        layout.addWidget(self.stack, 1)
        later = soon(self, self.refresh)
        session.document_changed.connect(later)
        session.analysis.changed.connect(later)

    def choose(self, name: str) -> None:
        """Shows a page."""
        if name not in self.pages:
            self.pages[name] = page = page_of(name)(self.session, self.tokens)
            for graph in page.findChildren(Graph):
                graph.to_write.connect(self.session.write)
            self.stack.addWidget(self.pages[name])
        if name != self.chosen and self.chosen:
            self.session.trying.drop()
        self.chosen = name
        self.buttons[name].setChecked(True)
        self.stack.setCurrentWidget(self.pages[name])
        self.refresh()

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        for graph in self.findChildren(Graph):
            graph.tokens = tokens
            graph.update()

    def refresh(self) -> None:
        """Fills the page that is looked at."""
        page = self.pages.get(self.chosen)
        if page is not None and self.isVisible():
            page.refresh()  # type: ignore[attr-defined]
            if isinstance(page, StudyPage):
                page.mark()

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        if not self.chosen:
            self.choose(next(iter(PAGES)))
        self.refresh()

    def hideEvent(self, event: object) -> None:
        super().hideEvent(event)  # type: ignore[arg-type]
        self.session.trying.drop()
