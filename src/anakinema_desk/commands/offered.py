"""What a click with the right button offers, for each kind of thing that is selected."""

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu, QWidget

from ..session import Session
from ..theme.labels import words
from .registry import Registry
from .study import Study

PART = ("track", "check-this", "-", "clip", "cut", "duplicate", "copy", "mirror", "tool-mirror-about", "-", "fixed",
        "group", "gather", "unique", "-", "hide", "isolate", "through", "-", "rename", "delete")
OFFERED: dict[str, tuple[str, ...]] = {
    "": ("paste", "all", "tool-plate", "tool-bar", "tool-disc", "tool-join", "-", "fit", "show-all"),
    "parts": PART,
    "uses": ("in-place", "use-again", "use-mirrored", *PART),
    "tracks": ("check-this", "-", "track-up", "track-down", "track-taller", "track-lower", "-", "pin",
               "save-tracks", "save-strip", "-", "delete"),
    "traces": ("track", "check-this", "name-value", "slot-along", "-", "rename", "delete"),
    "measures": ("track", "check-measure", "name-expression", "-", "rename", "delete"),
    "assemblies": ("use-again", "use-mirrored", "-", "rename", "delete"),
    "groups": ("rename", "delete"),
    "joints": ("track", "check-this", "name-value", "travel", "-", "drive", "wiggle", "tie-gear", "tie-rack",
               "tie-belt", "tie-ratio", "-", "rename", "delete"),
    "couplings": ("cam-desk", "track", "check-this", "-", "rename", "delete"),
    "features": ("delete",),
    "positions": ("go-position", "update-position", "-", "rename", "delete"),
}  # fmt: skip
"""What a click with the right button offers, for each kind of thing that is selected."""


class Offered:
    """Opens the menu of what is selected."""

    def __init__(self, session: Session, registry: Registry, study: Study, parent: QWidget):
        self.session, self.registry, self.study, self.parent = session, registry, study, parent
        self.menu: QMenu | None = None
        """The menu that was opened last over the bench or the model tree."""

    def open(self, at: QPoint) -> None:
        """What can be done with what is selected, at a place on the screen."""
        self.registry.refresh()
        menu = QMenu(self.parent)
        for name in OFFERED.get(self.session.selection.current()[0], ("rename", "delete")):
            action = self.registry.actions.get(name)
            if action is None:
                menu.addSeparator()
            elif name in ("track", "check-this") and action.isEnabled():
                self._offer_measures(menu, action.text().removesuffix("…"), name == "track")
            elif action.isEnabled():
                menu.addAction(action)
        if self.menu is not None:
            self.menu.deleteLater()
        self.menu = menu
        menu.popup(at)

    def _offer_measures(self, menu: QMenu, title: str, tracks: bool) -> None:
        """A menu of the quantities of what is selected."""
        inner = menu.addMenu(title)
        for one in self.study.offered(tracks):
            act = self.study.add_track if tracks else self.study.add_check
            inner.addAction(words(one.words)).triggered.connect(lambda _=False, one=one, act=act: act(one))
