"""Files: opened, saved, left, and brought back after the program ended before its work was saved."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtWidgets import QMenu, QWidget

from anakinema.errors import DocumentError

from ..panels.banner import Banner
from ..panels.questions import Questions
from ..session import Session
from ..settings import Settings, there
from ..state.keeper import Keeper, Left
from ..theme.labels import tip, words

FILTER = "Anakinema documents (*.anakinema *.json);;All files (*)"


class Files:
    """Opens and saves, and asks before anything is lost. `commit` takes in what is being typed."""

    def __init__(
        self, session: Session, settings: Settings, asking: Questions, told: Callable[[], Banner],
        commit: Callable[[], None], parent: QWidget,
    ):  # fmt: skip
        self.session, self.settings, self.asking, self.told, self.commit = session, settings, asking, told, commit
        self.keeper = Keeper(session.editor, settings.path.parent / "kept")
        self.keeper.unkept.connect(lambda text: session.warned.emit(text, ()))
        self.recent_menu = QMenu("Open recent", parent)
        self.recent_menu.aboutToShow.connect(self._fill_recent)

    def new(self) -> None:
        """Starts an empty document."""
        if self.may_leave():
            self.session.new()

    def open(self) -> None:
        """Asks for a file and opens it."""
        if self.may_leave():
            folder = str(self.session.path.parent) if self.session.path else ""
            path = self.asking.file("Open", FILTER, folder)
            if path is not None:
                self.open_path(path)

    def open_path(self, path: Path) -> bool:
        """Opens a file; what is wrong with it is told in the banner."""
        self.told().hide()
        opened = self.session.open(path)
        if opened:
            self.settings.used(path)
        return opened

    def open_example(self, name: str) -> None:
        """Opens a mechanism of the Quillmere Bindery that ships with the program."""
        if self.may_leave():
            self.told().hide()
            self.session.open_example(name)

    def save(self) -> bool:
        """Saves to the document's file, asking for one when there is none."""
        self.commit()
        if self.session.path is None:
            return self.save_as()
        path = self.session.path
        if self.session.editor.gone(path):
            text = f"{path.name} is no longer in {path.parent}: it was moved or deleted, or its disk is away."
            there_anew = ("Write it there anew",) if path.parent.is_dir() else ()
            answer = self.asking.choice("No longer there", text, ("Save as…", *there_anew))
            if answer not in there_anew:
                return bool(answer) and self.save_as()
        elif self.session.editor.changed_outside(path):
            text = f"{path.name} has been changed by another program since it was read here."
            if not self.asking.agreed("Changed outside", text, "Write over it"):
                return False
        return self._saved(path)

    def save_as(self) -> bool:
        """Asks for a file and saves to it."""
        self.commit()
        start = str(self.session.path or "mechanism.anakinema")
        path = self.asking.new_file("Save as", start, FILTER)
        if path is None:
            return False
        if not path.suffix:  # the dialog has asked about the name without its ending only
            path = path.with_name(f"{path.name}.anakinema")
            text = f"{path.name} is there already."
            if there(path) and not self.asking.agreed("Already there", text, "Write over it"):
                return False
        return self._saved(path)

    def _saved(self, path: Path) -> bool:
        saved = self.session.save(path)
        if saved:
            self.settings.used(path)
        return saved

    def may_leave(self) -> bool:
        """Whether the document may be left: asks when there are unsaved changes."""
        self.commit()
        if not self.session.modified:
            return True
        kept = self.asking.kept("Unsaved changes", "Save the changes before leaving this document?")
        return self.save() if kept else kept is not None

    def _fill_recent(self) -> None:
        self.recent_menu.clear()
        for path in self.settings.recent:
            self.recent_menu.addAction(words(path.name), partial(self._open_recent, path)).setToolTip(tip(str(path)))
        if self.recent_menu.isEmpty():
            self.recent_menu.addAction("No files yet").setEnabled(False)

    def offer_left(self) -> None:
        """Offers what a program left behind that ended before its work was saved."""
        every = self.keeper.left()
        for number, left in enumerate(every):
            when = datetime.fromtimestamp(left.at).strftime("%d %B, %H:%M")
            name = left.path.name if left.path is not None else left.title or "Untitled"
            text = f"{name}: the program ended before this was saved. A copy of {when} was kept."
            answer = self.asking.choice("Unsaved work", text, ("Open it", "Throw it away"), "Ask again")
            if answer == "Open it":
                self.restore_left(left)
                if more := len(every) - number - 1:
                    self.session.message.emit(f"{more} more kept for the next start: copies of unsaved work")
                return
            if answer:
                self.keeper.forget(left.copy)

    def restore_left(self, left: Left) -> None:
        """Opens work that was left behind; what is wrong with it is told."""
        try:
            self.keeper.restore(left)
        except DocumentError as error:
            self.told().tell("The copy can't be opened", error.faults, "fault")

    def _open_recent(self, path: Path) -> None:
        if self.may_leave():
            self.open_path(path)
