"""The commands that take parts together: groups, sub-assemblies, the clipboard."""

import json

from PySide6.QtGui import QGuiApplication

from anakinema.errors import DocumentError, Fault
from anakinema.formats import project
from anakinema.operations import clip, gather, group, group_still, insert, leave, paste, use_again

from .doing import Doing
from .registry import Command

ASIDE = 40
"""How far aside what is pasted is put (pixels)."""
STILL = 1e-9
"""Movement (document lengths, rad) below which a part stands still."""


class Together(Doing):
    """Groups, sub-assemblies, copying between documents."""

    def commands(self) -> list[Command]:
        """The commands, for the menus Edit and Build."""
        session = self.session

        def some() -> bool:
            return bool(session.selection.chosen("parts"))

        def loaded() -> bool:
            return session.document is not None

        return [
            Command("cut", "Cut", "Edit", self.cut, "Ctrl+X", enabled=some, divider=True),
            Command("clip", "Copy", "Edit", self.copy, "Ctrl+C", enabled=some,
                    hint="The parts that are selected with what holds them together, also for another window"),
            Command("paste", "Paste", "Edit", self.paste, "Ctrl+V", enabled=loaded),
            Command("all", "Select all parts", "Edit", self.select_all, "Ctrl+A", enabled=loaded),
            Command("group", "Rigid group", "Build", self.group, "Ctrl+R", divider=True,
                    enabled=lambda: len(session.selection.chosen("parts")) > 1,
                    hint="What is selected moves as one body"),
            Command("group-still", "Group what stands still", "Build", self.group_still,
                    enabled=lambda: session.motion is not None,
                    hint="Everything that does not move through the motion becomes one rigid group with the frame"),
            Command("gather", "Sub-assembly of what is selected…", "Build", self.gather, "Ctrl+Shift+R", enabled=some,
                    hint="The parts that are selected become one thing that can stand in several places"),
            Command("use-again", "Another of this sub-assembly", "Build", lambda: self.use_again(False),
                    enabled=lambda: self.chosen("uses", "assemblies")),
            Command("use-mirrored", "Another, turned over", "Build", lambda: self.use_again(True),
                    enabled=lambda: self.chosen("uses", "assemblies")),
            Command("insert", "Put another document in…", "Build", self.insert, enabled=loaded,
                    hint="Its content is copied in as a sub-assembly, so that nothing can be missing"),
        ]  # fmt: skip

    def copy(self) -> bool:
        """Puts what is selected on the clipboard, as text in the file format."""
        document = self.session.document
        if document is None or not self.session.selection.chosen("parts"):
            return False
        try:
            piece = clip(document, self.session.selection.chosen("parts"))
        except DocumentError as error:
            self.session.faults_raised.emit("Not copied", error.faults)
            return False
        QGuiApplication.clipboard().setText(json.dumps(piece, ensure_ascii=False, indent=1))
        return True

    def cut(self) -> None:
        """Puts what is selected on the clipboard and takes it out, with what can't be without it."""
        document = self.session.document
        if document is None or not self.copy():
            return
        tops = dict.fromkeys(name.partition("/")[0] for name in self.session.selection.chosen("parts"))
        leaving = leave(document, *(("parts", name) for name in tops))
        faults = self.session.apply(leaving.changes, "Cut")
        if faults:
            self.session.faults_raised.emit("Not cut", faults)

    def paste(self) -> None:
        """Puts in what is on the clipboard, beside where it was."""
        text = QGuiApplication.clipboard().text()
        step = max(round(ASIDE / self._bench().scale), 1)
        try:
            other, _ = project.loads(text.encode("utf-8", "replace"))
        except DocumentError as error:
            fault = Fault("", f"the clipboard holds no parts of a mechanism ({error.faults[0].text})")
            self.session.faults_raised.emit("Not pasted", (fault,))
            return
        self.make(lambda document: paste(document, other.tree, complex(step, -step)), "Paste")

    def select_all(self) -> None:
        """Selects every part, sub-assemblies as one."""
        document = self.session.document
        if document is not None:
            alone = [f"parts.{name}" for name in document.parts if "/" not in name]
            uses = [f"uses.{name}" for name in document.uses if "/" not in name]
            self.session.selection.select_all([*alone, *uses])

    def group(self) -> None:
        """A rigid group of what is selected."""
        parts = self.session.selection.chosen("parts")
        self.make(lambda document: group(document, parts), "Group")

    def group_still(self) -> None:
        """A rigid group of all that stands still through the motion."""
        motion = self.session.motion
        if motion is None:
            return
        q = motion.positions(motion.grid)
        moved = (q.max(axis=0) - q.min(axis=0)).max(axis=1)
        still = [part for part, far in zip(motion.system.body_ids, moved.tolist(), strict=True) if part and far < STILL]
        self.make(lambda document: group_still(document, still), "Group what stands still")

    def gather(self) -> None:
        """Makes a sub-assembly of what is selected."""
        parts = self.session.selection.chosen("parts")
        name = self.asking.word("Sub-assembly", "What is it called?", "unit")
        if name:
            self.make(lambda document: gather(document, parts, name), f"Sub-assembly {name}")

    def use_again(self, mirror: bool) -> None:
        """Puts another of the sub-assembly that is selected beside it."""
        kind, name = self.session.selection.current()
        document, step = self.session.document, max(round(ASIDE / self._bench().scale), 1)
        if document is None or kind not in ("uses", "assemblies"):
            return
        assembly = document.uses[name].assembly if kind == "uses" else name
        at = complex(*document.uses[name].pose[:2]) if kind == "uses" else 0j
        at += complex(step, -step)
        self.make(lambda document: use_again(document, assembly, at, mirror), f"Place {assembly}")

    def insert(self) -> None:
        """Copies another document in as a sub-assembly."""
        path = self.asking.file("Put another document in", "Anakinema documents (*.anakinema *.json);;All files (*)")
        if path is None:
            return
        try:
            other, _ = project.load(path)
        except DocumentError as error:
            self.session.faults_raised.emit(f"{path.name} can't be put in", error.faults)
            return
        word = "".join(letter if letter.isalnum() or letter in "-_" else "-" for letter in path.stem) or "unit"
        self.make(lambda document: insert(document, other, word), f"Put {path.name} in")

