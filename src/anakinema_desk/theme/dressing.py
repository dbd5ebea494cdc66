"""Dresses a window in a theme, one view after the other."""

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QWidget

from .tokens import Tokens, palette, stylesheet


class Dressing:
    """The views of a window, each with a style sheet of its own: one of the whole window takes Qt 60 ms to take in,
    and nothing may hold the window that long."""

    def __init__(self, window: QWidget, views: Sequence[QWidget], tokens: Tokens, done: Callable[[], None]):
        """`done` is called when all views are in another theme, before they are painted; those that need the colours
        are told by `set_tokens`."""
        self.views, self.done = views, done
        self._steps: list[Callable[[], object]] = []
        self._timer = QTimer(window)
        self._timer.timeout.connect(self._next)
        self._take(tokens)
        for view in views:
            view.setStyleSheet(self._sheet)

    @property
    def busy(self) -> bool:
        """Whether some views are in another theme yet."""
        return bool(self._steps)

    def change(self, tokens: Tokens) -> None:
        """Another theme: a view an event; then they are painted, a view an event again."""
        self._take(tokens)
        for view in self.views:
            view.setUpdatesEnabled(False)
        self._steps = [partial(self._put, view) for view in self.views]
        self._steps += [self.done, *(partial(view.setUpdatesEnabled, True) for view in self.views)]
        self._timer.start()

    def _take(self, tokens: Tokens) -> None:
        QApplication.setPalette(palette(tokens))
        self._tokens, self._sheet = tokens, stylesheet(tokens)

    def _put(self, view: QWidget) -> None:
        view.setStyleSheet(self._sheet)
        if hasattr(view, "set_tokens"):
            view.set_tokens(self._tokens)

    def _next(self) -> None:
        self._steps.pop(0)()
        if not self._steps:
            self._timer.stop()
