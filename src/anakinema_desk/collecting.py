"""Collects garbage on the interface thread only.

Python collects on whichever thread happens to allocate. A widget or timer that a thread which listens collects is torn
down behind the event loop's back, which then calls what is no longer there: the process dies.
"""

import gc

from PySide6.QtCore import QObject, QTimer

EVERY = 200
"""Milliseconds between two looks."""


class Collector(QObject):
    """Takes collecting over from the interpreter, from the first window on."""

    def __init__(self, parent: QObject):
        super().__init__(parent)
        self.thresholds = gc.get_threshold()
        gc.disable()
        self.timer = QTimer(self)
        self.timer.timeout.connect(self.look)
        self.timer.start(EVERY)

    def settle(self) -> None:
        """What is loaded by now stays: looking through it again and again would only take time."""
        gc.collect()
        gc.freeze()

    def look(self) -> None:
        """Collects the generation that is due, as the interpreter would."""
        counts = gc.get_count()
        for generation in (2, 1, 0):
            if counts[generation] > self.thresholds[generation]:
                gc.collect(generation)
                return
