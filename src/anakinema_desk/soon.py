"""Doing something in an event of its own: what one change of the document asks of many views is then no one long wait
for the hand."""

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer


def soon(owner: QObject, call: Callable[[], None], wait: int = 0) -> Callable[[], None]:
    """What asks for a call when the events that wait have been answered, or some milliseconds later; asked often, it is
    called once."""
    timer = QTimer(owner)
    timer.setSingleShot(True)
    timer.setInterval(wait)
    timer.timeout.connect(call)
    return timer.start
