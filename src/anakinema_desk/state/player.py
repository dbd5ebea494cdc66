"""The moment of the motion that is shown, and playing."""

from PySide6.QtCore import QObject, QTimer, Signal

PLAY_SECONDS = 4.0
"""A motion is shown in this time at speed 1, however fast it really is."""

UNSEEN = 30
"""Moments shown and not painted after which nobody looks: twice as many as the slowest picture takes."""


class Player(QObject):
    """Holds a time between 0 and `end` (s)."""

    changed = Signal()
    """Another moment is shown."""
    playing_changed = Signal()

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.time = self.end = 0.0
        self.looping, self.bouncing, self.speed = True, False, 1.0
        self.real = False
        """Whether it is shown as fast as it really is, whatever the speed."""
        self._way = 1.0
        self.watched = False
        """Whether it is told what is `seen`; it then waits for that."""
        self._unseen = 0
        """Moments shown since the last that was seen."""
        self._playing = False
        self._timer = QTimer(self)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._tick)

    def last(self, end: float) -> None:
        """Takes the length of a new motion."""
        self.end = end
        self.time = min(self.time, end)
        if end == 0.0:
            self.pause()

    def go(self, t: float) -> bool:
        """Shows a moment; whether it is another one."""
        t = min(max(t, 0.0), self.end)
        if t == self.time:
            return False
        self.time = t
        self.changed.emit()
        return True

    @property
    def playing(self) -> bool:
        """Whether the motion runs."""
        return self._playing

    def seen(self) -> None:
        """The moment that is shown has been painted. A window that is minimised, or wholly covered where the desktop
        says so, paints nothing; playing then rests until it does."""
        self._unseen = 0
        if self._playing and not self._timer.isActive():
            self._timer.start()

    def play(self) -> None:
        """Plays from the moment shown, from the start when at the end."""
        if self.end > 0 and not self.playing:
            if self.time >= self.end and not self.bouncing:
                self.go(0.0)
            self._playing, self._unseen = True, 0
            self._timer.start()
            self.playing_changed.emit()

    def pause(self) -> None:
        """Stops playing."""
        if self.playing:
            self._playing = False
            self._timer.stop()
            self.playing_changed.emit()

    @property
    def slower(self) -> float:
        """How many times slower than real it is shown."""
        return 1.0 if self.real or self.end == 0 else PLAY_SECONDS / self.speed / self.end

    def _tick(self) -> None:
        if self.watched and self._unseen >= UNSEEN:
            self._timer.stop()
            return
        self._unseen += 1
        t = self.time + self._way * self._timer.interval() / 1000 / self.slower
        if self.bouncing and not 0.0 < t < self.end:
            self._way = 1.0 if t <= 0.0 else -1.0
            self.go(min(max(t, 0.0), self.end))
            return
        if not self.bouncing:
            self._way = 1.0
        if t < self.end:
            self.go(t)
        elif self.looping:
            self.go(t % self.end if self.end else 0.0)
        else:
            self.go(self.end)
            self.pause()
