"""Help: the guide to building and studying, section by section, and all keys; searched, offline."""

from importlib import resources

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from ..commands.registry import Registry
from ..theme.labels import Label, tip
from ..theme.tokens import Tokens, stylesheet

PAGES = ("building", "depth", "studies", "joints", "contact", "cams", "clearance")
"""The pages that ship, in the order of the work."""
KEYS = "Keys"
MORE_KEYS = (("Nudge a number", "↑ ↓, Shift tenfold, Alt a tenth"), ("Next feature under the mouse", "Tab"),
             ("Back out one step", "Escape"), ("Another panel", "F6, Shift+F6"))  # fmt: skip


def sections() -> list[tuple[str, str]]:
    """All sections of the pages: what to call each, and its text as Markdown. The first is called by its page; entries
    of a list that begin with a bold word are sections too."""
    found = []
    for page in PAGES:
        text = _text_of(page)
        title = _heading(text)
        for number, piece in enumerate(text.split("\n## ")):
            name = title if not number else f"{title}: {_heading(piece)}"
            whole, *entries = piece.split("\n- **")
            found.append((name, whole if not number else f"## {whole}"))
            for entry in entries:
                word = entry.partition("**")[0].strip(" .")
                found.append((f"{title}: {word}", f"## {word}\n\n**{entry}"))
    return found


def _text_of(page: str) -> str:
    return resources.files("anakinema_desk").joinpath("help", f"{page}.md").read_text(encoding="utf-8")


def _heading(text: str) -> str:
    return text.partition("\n")[0].lstrip("# ").strip()


class Help(QDialog):
    """Stays beside the window while one works."""

    def __init__(self, registry: Registry, over: QWidget):
        super().__init__(over)
        self.registry = registry
        self.setWindowTitle("Help")
        self.setModal(False)
        self.resize(860, 560)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search: mirror, slot, dwell, tolerance, Ctrl+K…")
        self.search.setAccessibleName("Search the help")
        self.search.setClearButtonEnabled(True)
        self.list = QListWidget()
        self.list.setAccessibleName("Sections")
        self.list.setFixedWidth(250)
        self.none = Label("Nothing has all these words; try fewer.")
        self.none.setProperty("role", "muted")
        self.none.hide()
        self.page = QTextBrowser()
        self.page.setOpenLinks(False)
        self.page.setAccessibleName("The section")
        self.page.anchorClicked.connect(lambda url: self.show_page(url.path()))
        left = QVBoxLayout()
        left.addWidget(self.list, 1)
        left.addWidget(self.none)
        both = QHBoxLayout()
        both.addLayout(left)
        both.addWidget(self.page, 1)
        column = QVBoxLayout(self)
        column.addWidget(self.search)
        column.addLayout(both, 1)
        self.sections = [*sections(), (KEYS, self._keys())]
        self.search.textChanged.connect(self._sift)
        self.list.currentItemChanged.connect(lambda item, _: self._show(item))
        self._sift("")

    def _keys(self) -> str:
        """All shortcuts, as a table."""
        rows = [(command.text.rstrip("…"), command.keys.replace(" | ", " or "))
                for command in self.registry.commands.values() if command.keys]  # fmt: skip
        lines = [f"| {text} | **{keys}** |" for text, keys in (*rows, *MORE_KEYS)]
        return "\n".join(["# Keys", "", "| What | Keys |", "| --- | --- |", *lines])

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.setStyleSheet(stylesheet(tokens))

    def open_at(self, name: str = "") -> None:
        """Shows itself, at a section where one is named."""
        if name:
            self.search.clear()
            for row in range(self.list.count()):
                if self.list.item(row).text() == name:
                    self.list.setCurrentRow(row)
        self.show()
        self.raise_()
        self.activateWindow()
        self.search.setFocus()

    def show_page(self, path: str) -> None:
        """Goes to the page of a link."""
        stem = path.rpartition("/")[2].removesuffix(".md")
        if stem in PAGES:
            self.open_at(_heading(_text_of(stem)))

    def _sift(self, text: str) -> None:
        words = text.lower().split()
        self.list.clear()
        for name, page in self.sections:
            if all(word in f"{name}\n{page}".lower() for word in words):
                item = QListWidgetItem(name)
                item.setData(Qt.ItemDataRole.UserRole, page)
                item.setToolTip(tip(name))
                self.list.addItem(item)
        self.none.setVisible(not self.list.count())
        if self.list.count():
            self.list.setCurrentRow(0)
        else:
            self.page.clear()

    def _show(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        self.page.setMarkdown(item.data(Qt.ItemDataRole.UserRole))
        words = self.search.text().split()
        if words:
            self.page.find(words[0])
