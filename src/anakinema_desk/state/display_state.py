"""What of a mechanism is shown, and how: hidden and see-through parts, colours by part. None of it is in the file."""

from collections.abc import Iterable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

if TYPE_CHECKING:
    from anakinema.clearance.swept import Swept


class DisplayState(QObject):
    """Parts by name. A part may be hidden, or seen through; `by_part` colours each part by itself."""

    changed = Signal()

    def __init__(self, parent: QObject | None = None):
        super().__init__(parent)
        self.hidden: frozenset[str] = frozenset()
        self.through: frozenset[str] = frozenset()
        self.by_part = True
        self.cut_of = ""
        """The joint or the part whose axis the cut follows, as a place; empty where it stays."""
        self.swept: Swept | None = None
        self.cut: tuple[complex, complex] | None = None
        """The line across the plan along which the stack is cut; None where it is seen from the edge."""

    def hide(self, parts: Iterable[str]) -> None:
        """Hides parts, or shows them again where all are hidden."""
        chosen = frozenset(parts)
        self._set(hidden=self.hidden - chosen if chosen <= self.hidden else self.hidden | chosen)

    def isolate(self, parts: Iterable[str], every: Iterable[str]) -> None:
        """Hides all but some parts; where that is so already, shows all."""
        wanted = frozenset(every) - frozenset(parts)
        self._set(hidden=frozenset() if wanted == self.hidden else wanted)

    def see_through(self, parts: Iterable[str]) -> None:
        """Lets what is behind some parts be seen, or not any more where that is so for all of them."""
        chosen = frozenset(parts)
        self._set(through=self.through - chosen if chosen <= self.through else self.through | chosen)

    def fade(self, parts: Iterable[str]) -> None:
        """Lets some parts, and no others, be seen through; none where that is so already."""
        wanted = frozenset(parts)
        self._set(through=frozenset() if wanted == self.through else wanted)

    def colour_by_part(self, on: bool) -> None:
        """Whether each part has a colour of its own, or all that move have one."""
        self.by_part = on
        self.changed.emit()

    def show_swept(self, area: "Swept | None") -> None:
        """Shows an area that something sweeps, or none."""
        self.swept = area
        self.changed.emit()

    def cut_along(self, line: tuple[complex, complex] | None, of: str = "") -> None:
        """Cuts the stack along a line through two places, or not any more; one `of` a joint or a part goes with it."""
        self.cut, self.cut_of = line, of if line is not None else ""
        self.changed.emit()

    def show_all(self) -> None:
        """Hides nothing any more."""
        self._set(hidden=frozenset(), through=frozenset())

    def forget(self) -> None:
        """Another document: nothing is hidden, cut or swept."""
        self.cut = self.swept = None
        self.cut_of = ""
        self.show_all()
        self.changed.emit()

    def keep(self, parts: Iterable[str]) -> None:
        """Forgets parts that are there no longer."""
        there = frozenset(parts)
        if not (self.hidden | self.through) <= there:
            self._set(hidden=self.hidden & there, through=self.through & there)

    def _set(self, hidden: frozenset[str] | None = None, through: frozenset[str] | None = None) -> None:
        before = (self.hidden, self.through)
        self.hidden = self.hidden if hidden is None else hidden
        self.through = self.through if through is None else through
        if (self.hidden, self.through) != before:
            self.changed.emit()
