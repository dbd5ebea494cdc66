"""The other ways to put a mechanism together: found once, and gone through one after the other."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from .analyst import Analyst
from .editor import Editor

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    from anakinema.document import Document
    from anakinema.kinematics.modes import Modes
    from anakinema.kinematics.motion import Motion


@dataclass(frozen=True)
class Ring:
    """The ways that were found, and which of them the document is in."""

    document: "Document"
    modes: "Modes"
    index: int


class Configurations(QObject):
    """Puts the parts together in the next of the ways in which the joints close; `told` says which. `motion` gives the
    motion that is shown."""

    message = Signal(str)

    def __init__(
        self, editor: Editor, analyst: Analyst, motion: "Callable[[], Motion | None]", parent: QObject | None = None
    ):
        super().__init__(parent)
        self.editor, self.analyst, self.motion = editor, analyst, motion
        self.ring: Ring | None = None
        analyst.ways_found.connect(self._found)

    def forget(self) -> None:
        """Another document is open."""
        self.ring = None

    def next(self) -> None:
        """The next way; they are looked for where that is not done yet."""
        ring, motion = self.ring, self.motion()
        if ring is not None and ring.document is self.editor.document:
            self._choose(ring, (ring.index + 1) % len(_allowed(ring.modes)))
        elif motion is not None and not self.analyst.busy:
            self.analyst.look_for_ways(motion)

    def _found(self, number: int, found: "Modes") -> None:
        document = self.editor.document
        if number != self.analyst.wanted or document is None:
            return
        if len(_allowed(found)) == 1:
            self.message.emit(f"The joints close in this one way only{_but(found)}")
        else:
            self._choose(Ring(document, found, 0), 1)

    def _choose(self, ring: Ring, index: int) -> None:
        from anakinema.kinematics.modes import placed

        motion, ways = self.motion(), _allowed(ring.modes)
        if motion is None:
            return
        q = ways[index]
        faults = self.editor.replace(lambda before: placed(before, motion, q), "Put together another way")
        if not faults and self.editor.document is not None:
            self.ring = Ring(self.editor.document, ring.modes, index)
            more = _but(ring.modes)
            self.message.emit(f"Put together in way {index + 1} of {len(ways)}{more}; the same command shows the next")


def _allowed(found: "Modes") -> "list[NDArray[np.float64]]":
    """The ways that keep all limits; the first, in which the document is, whatever it keeps."""
    return [mode.q for i, mode in enumerate(found.ways) if i == 0 or not mode.outside]


def _but(found: "Modes") -> str:
    """What else there is to say of the ways."""
    beyond = len(found.ways) - len(_allowed(found))
    outside = dict.fromkeys(joint for mode in found.ways[1:] for joint in mode.outside)
    message = f"; {beyond} more outside the limits of {', '.join(outside)}" if beyond else ""
    return message + (f"; {found.doubt}" if found.doubt else "")
