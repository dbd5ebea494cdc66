"""The window: bench in the middle, make-up left, card right, strip below, the verdict line above, menus over all."""

from collections.abc import Callable
from datetime import datetime
from functools import partial
from pathlib import Path

from PySide6.QtCore import QByteArray, QEvent, QPoint, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from anakinema import __version__
from anakinema.errors import DocumentError
from anakinema.formats import project

from .canvas.canvas import Canvas
from .canvas.tools import AT_HAND
from .collecting import Collector
from .commands.build import Build
from .commands.drawings import Drawings
from .commands.general import commands
from .commands.look import Look
from .commands.palette import Palette
from .commands.registry import Registry
from .commands.study import Study
from .commands.together import Together
from .guard import Guard
from .keyboard import Keyboard
from .panels.banner import Banner
from .panels.camdesk import CamDesk
from .panels.gaps import Gaps
from .panels.model_tree import ModelTree
from .panels.parameters import Parameters
from .panels.properties import Properties
from .panels.questions import Questions
from .panels.start import Guide, Start
from .panels.study import Studies
from .panels.timing import Timing
from .panels.verdict import VerdictLine
from .session import Session
from .settings import Settings, there
from .soon import soon
from .state.keeper import Keeper, Left
from .theme.dressing import Dressing
from .theme.icons import icon
from .theme.kept import KeptButton
from .theme.labels import tip, words
from .theme.seams import Views
from .theme.tokens import THEMES, Tokens
from .timeline.timeline import Timeline
from .timeline.transport import Transport

MENUS = ("File", "Edit", "Build", "View", "Motion", "Help")
PART = ("track", "check-this", "-", "clip", "cut", "duplicate", "copy", "mirror", "-", "fixed", "group", "gather",
        "unique", "-", "hide", "isolate", "through", "-", "rename", "delete")
OFFERED: dict[str, tuple[str, ...]] = {
    "": ("paste", "all", "tool-plate", "tool-bar", "tool-disc", "tool-join", "-", "fit", "show-all"),
    "parts": PART,
    "uses": ("in-place", "use-again", "use-mirrored", *PART),
    "tracks": ("check-this", "-", "track-up", "track-down", "track-taller", "track-lower", "-", "pin",
               "save-tracks", "save-strip", "-", "delete"),
    "traces": ("track", "check-this", "slot-along", "-", "rename", "delete"),
    "measures": ("track", "check-measure", "-", "rename", "delete"),
    "assemblies": ("use-again", "use-mirrored", "-", "rename", "delete"),
    "groups": ("rename", "delete"),
    "joints": ("track", "check-this", "travel", "-", "drive", "wiggle", "tie-gear", "tie-rack", "tie-belt",
               "tie-ratio", "-", "rename", "delete"),
    "couplings": ("cam-desk", "track", "check-this", "-", "rename", "delete"),
    "positions": ("go-position", "update-position", "-", "rename", "delete"),
}  # fmt: skip
"""What a click with the right button offers, for each kind of thing that is selected."""
ROOM_TO_STUDY = 292
"""Height of the lower part of the window while a study is shown (pixels)."""
ROOM_TO_SHAPE = 330
"""The same while the cam desk is."""
TOOL_ROW = 34.0
"""Height of a second row of tools (pixels)."""
ONE_ROW = 640
"""Width of the bench (pixels) from which its tools stand in one row."""
FILTER = "Anakinema documents (*.anakinema *.json);;All files (*)"


class Window(QMainWindow):
    """The one window of the application."""

    def __init__(self, session: Session, settings: Settings):
        super().__init__()
        self.session, self.settings = session, settings
        self.painted: Callable[[], None] | None = None
        self.offered: QMenu | None = None
        """The menu that was opened last over the bench or the make-up."""
        self.collector = Collector(self)
        self.resize(1280, 800)
        self.setMinimumSize(860, 560)
        self.asking = Questions(self.menuBar(), lambda: self.tokens)
        doing = (session, lambda: self.canvas, lambda: self.properties, self.asking)
        self.build, self.together, self.study = Build(*doing), Together(*doing), Study(*doing)
        self.study.timeline = lambda: self.timeline
        self.look, self.drawings = Look(session), Drawings(*doing)
        self.registry = Registry(self)
        self.registry.add(commands(self))
        self.menus = self.registry.fill(self.menuBar(), MENUS)
        examples = QMenu("Open an example", self.menuBar())
        for name in project.EXAMPLES:
            examples.addAction(self.registry.actions[f"example-{name}"])
        self.menus["File"].insertMenu(self.registry.actions["save"], examples)
        self.recent_menu = QMenu("Open recent", self.menuBar())
        self.menus["File"].insertMenu(self.registry.actions["save"], self.recent_menu)
        self.recent_menu.aboutToShow.connect(self._fill_recent)
        for menu in self.menus.values():
            menu.aboutToShow.connect(self.registry.refresh)
        self._lay_out()
        self.palette_box = Palette(self.registry, self)
        views = (
            self.menuBar(), self.palette_box, self.verdict, self.banner, self.model_tree, self.canvas,
            self.properties, self.timeline,
            self.gaps, self.parameters, self.studies, self.timing, self.cam_desk, self.transport,
        )  # fmt: skip
        places = (
            self.canvas, self.model_tree, self.properties, self.transport, self.timeline, self.gaps, self.parameters,
            self.studies, self.timing, self.cam_desk, self.verdict,
        )  # fmt: skip
        self.keyboard = Keyboard(self, self.canvas, places, (self.properties, self.gaps, self.parameters, self.studies))
        self.setFocusProxy(self.canvas)
        self.dressing = Dressing(self, views, self.tokens, self._in_theme)
        for signal in (session.document_changed, session.shown_changed, session.playing_changed, session.posed_changed):
            signal.connect(self._refresh)
        session.display_state.changed.connect(self._refresh)
        session.selection_changed.connect(soon(self, self.registry.refresh))
        session.analyst.judged.connect(self.collector.settle, Qt.ConnectionType.SingleShotConnection)
        session.message.connect(lambda text: self.banner.tell(text))
        session.warned.connect(lambda text, faults: self.banner.tell(text, faults, "warning"))
        session.faults_raised.connect(lambda headline, faults: self.banner.tell(headline, faults, "fault"))
        self.keeper = Keeper(session.editor, settings.path.parent / "kept")
        self.keeper.unkept.connect(lambda text: session.warned.emit(text, ()))
        self.guard = Guard(
            settings.path.parent, lambda: session.document, lambda text: self.banner.tell(text, level="fault")
        )
        self._refresh()

    @property
    def tokens(self) -> Tokens:
        """The theme in use."""
        return THEMES[self.settings.get("theme", "light") if self.settings.get("theme", "light") in THEMES else "light"]

    # -- building ----------------------------------------------------------------------------------------------

    def _lay_out(self) -> None:
        """Makes all views in the theme of the settings."""
        session, tokens = self.session, self.tokens
        self.verdict = VerdictLine(session, tokens)
        self.model_tree = ModelTree(session, tokens)
        self.canvas = Canvas(session, tokens)
        self.banner = Banner(self.canvas)
        self.properties = Properties(session)
        self.properties.table_wanted.connect(self.study.read_table)
        self.timeline = Timeline(session, tokens)
        self.timeline.menu_wanted.connect(lambda _, at: self._offer(at))
        self.gaps = Gaps(session, tokens)
        self.parameters = Parameters(session, tokens, self.build.delete)
        self.studies = Studies(session, tokens)
        self.timing = Timing(session, tokens)
        self.cam_desk = CamDesk(session, tokens)
        self.cam_desk.write_wanted.connect(self.study.write_cam)
        self.cam_desk.table_wanted.connect(self.study.read_cam_table)
        self.properties.desk_wanted.connect(self.show_cams)
        self.transport = Transport(session, tokens, self.registry)
        self._bench_buttons()
        self._start()
        upper = Views(Qt.Orientation.Horizontal)
        for widget, stretch in ((self.model_tree, 0), (self.canvas, 1), (self.properties, 0)):
            upper.addWidget(widget)
            upper.setStretchFactor(upper.count() - 1, stretch)
            upper.setCollapsible(upper.count() - 1, False)
        narrow = self.width() < 1150
        upper.setSizes([216 if narrow else 262, 1000, 240 if narrow else 290])
        self.model_tree.setMinimumWidth(190)
        self.properties.setMinimumWidth(220)
        lower = QWidget()
        below = QVBoxLayout(lower)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(0)
        below.addWidget(self.transport)
        self.below = QStackedWidget()
        self.below.addWidget(self.timeline)
        self.below.addWidget(self.gaps)
        self.below.addWidget(self.parameters)
        self.below.addWidget(self.studies)
        self.below.addWidget(self.timing)
        self.below.addWidget(self.cam_desk)
        below.addWidget(self.below, 1)
        lower.setMinimumHeight(130)
        whole = self.whole = Views(Qt.Orientation.Vertical)
        whole.addWidget(upper)
        whole.addWidget(lower)
        whole.setStretchFactor(0, 1)
        whole.setSizes([540, 216])
        whole.setCollapsible(0, False)
        central = QWidget()
        layout = QVBoxLayout(central)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.verdict)
        layout.addWidget(whole, 1)
        self.setCentralWidget(central)
        self.canvas.setFocus()

    def _bench_buttons(self) -> None:
        """Fit and zoom, in the corner of the bench."""
        corner = QWidget(self.canvas)
        row = QHBoxLayout(corner)
        row.setContentsMargins(6, 6, 6, 6)
        row.setSpacing(1)
        for name in ("zoom-out", "zoom-in", "fit"):
            action = self.registry.actions[name]
            action.setIconVisibleInMenu(False)
            button = KeptButton()
            button.setDefaultAction(action)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
            button.setToolTip(tip(f"{action.text()}  ({action.shortcut().toString()})"))
            button.setAccessibleName(action.text())
            row.addWidget(button)
        self._bench_icons()
        over = QHBoxLayout(self.canvas)
        over.setContentsMargins(0, 0, 0, 0)
        over.addWidget(self._tools(), alignment=Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignLeft)
        over.addWidget(corner, alignment=Qt.AlignmentFlag.AlignTop | Qt.AlignmentFlag.AlignRight)
        self.canvas.tool_changed.connect(self.registry.refresh)
        self.canvas.menu_wanted.connect(self._offer)
        self.model_tree.customContextMenuRequested.connect(
            lambda at: self._offer(self.model_tree.viewport().mapToGlobal(at))
        )

    def _start(self) -> None:
        """What is offered while the bench is empty, and the guide."""
        self.guide = Guide(self.session)
        self.guide.changed.connect(self._guided)
        take = self.registry.actions
        offers = [
            ("First mechanism", "step by step, in two minutes", self.guide.start),
            ("Draw a plate", "P: two corners; the first part is the frame", take["tool-plate"].trigger),
            ("Draw a bar", "B: two holes; drawn from a hole it is pinned there", take["tool-bar"].trigger),
            ("Parts from a drawing", "Ctrl+I: outlines of a DXF or SVG file", take["read-drawing"].trigger),
            ("Open an example", "mechanisms of a small bindery, ready to run", self._choose_example),
            ("Open a file", "Ctrl+O", take["open"].trigger),
        ]
        self.start = Start(offers, self.canvas)
        self.canvas.tool_changed.connect(self._offer_start)
        self.session.document_changed.connect(self._offer_start)

    def _offer_start(self) -> None:
        document = self.session.document
        wanted = document is not None and not document.parts and self.canvas.tool is None and not self.guide.text
        self.start.offer(wanted)

    def _guided(self) -> None:
        self.canvas.advice = self.guide.text
        self._offer_start()
        self.canvas.update()

    def begin_guide(self) -> None:
        """Begins the guide on an empty bench."""
        if self.session.document is None or self.session.document.parts:
            self.new()
        if self.session.document is not None and not self.session.document.parts:
            self.guide.start()

    def _choose_example(self) -> None:
        titles = {title: name for name, title in project.EXAMPLES.items()}
        title = self.asking.one_of("Open an example", "Which?", list(titles))
        if title:
            self.open_example(titles[title])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._fit_to_size)

    def _fit_to_size(self) -> None:
        self._lay_tools()
        self._offer_start()

    def _offer(self, at: QPoint) -> None:
        """What can be done with what is selected, at a place on the screen."""
        self.registry.refresh()
        menu = QMenu(self.menuBar())
        for name in OFFERED.get(self.session.selected()[0], ("rename", "delete")):
            action = self.registry.actions.get(name)
            if action is None:
                menu.addSeparator()
            elif name in ("track", "check-this") and action.isEnabled():
                self._offer_measures(menu, action.text().removesuffix("…"), name == "track")
            elif action.isEnabled():
                menu.addAction(action)
        if self.offered is not None:
            self.offered.deleteLater()
        self.offered = menu
        menu.popup(at)

    def _offer_measures(self, menu: QMenu, title: str, tracks: bool) -> None:
        """A menu of the quantities of what is selected."""
        inner = menu.addMenu(title)
        for one in self.study.offered(tracks):
            act = self.study.add_track if tracks else self.study.add_check
            inner.addAction(words(one.words)).triggered.connect(lambda _=False, one=one, act=act: act(one))

    def _tools(self) -> QWidget:
        """The tools for building, in the order of the work, in the other corner."""
        tools = QWidget(self.canvas)
        self.tool_rows = QGridLayout(tools)
        self.tool_rows.setContentsMargins(6, 6, 6, 6)
        self.tool_rows.setSpacing(1)
        self.tool_buttons: list[QToolButton] = []
        for name in (*(f"tool-{tool}" for tool in AT_HAND), "drive"):
            action = self.registry.actions[name]
            button = KeptButton()
            button.setDefaultAction(action)
            button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
            button.setToolTip(tip(f"{self.registry.commands[name].hint}  ({action.shortcut().toString()})"))
            button.setProperty("role", "tool")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)  # the bench keeps the keys when one is clicked
            self.tool_buttons.append(button)
        self._lay_tools()
        return tools

    def _lay_tools(self) -> None:
        """The tools in one row, or in two where the bench is narrow."""
        count = len(self.tool_buttons)
        columns = count if self.canvas.width() > ONE_ROW else (count + 1) // 2
        if self.tool_rows.count() == count and self.tool_rows.itemAtPosition(0, columns - 1) is not None and (
            self.tool_rows.itemAtPosition(0, columns) is None
        ):
            return
        self.canvas.covered = 0.0 if columns == count else TOOL_ROW
        for number, button in enumerate(self.tool_buttons):
            self.tool_rows.addWidget(button, number // columns, number % columns)

    def _bench_icons(self) -> None:
        for name in ("zoom-out", "zoom-in", "fit"):
            self.registry.actions[name].setIcon(icon(name, self.tokens.muted))

    # -- commands ----------------------------------------------------------------------------------------------

    def new(self) -> None:
        """Starts an empty document."""
        if self._may_leave():
            self.session.new()

    def open(self) -> None:
        """Asks for a file and opens it."""
        if self._may_leave():
            folder = str(self.session.path.parent) if self.session.path else ""
            path = self.asking.file("Open", FILTER, folder)
            if path is not None:
                self.open_path(path)

    def open_path(self, path: Path) -> bool:
        """Opens a file; what is wrong with it is told in the banner."""
        self.banner.hide()
        opened = self.session.open(path)
        if opened:
            self.settings.used(path)
        return opened

    def open_example(self, name: str) -> None:
        """Opens a mechanism of the Quillmere Bindery that ships with the program."""
        if self._may_leave():
            self.banner.hide()
            self.session.open_example(name)

    def save(self) -> bool:
        """Saves to the document's file, asking for one when there is none."""
        self._commit_field()
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
        self._commit_field()
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

    def _commit_field(self) -> None:
        """Takes in what is being typed, so that a save holds it."""
        for field in self.properties.fields.values():
            if field.isModified():
                field.commit()

    def _may_leave(self) -> bool:
        """Whether the document may be left: asks when there are unsaved changes."""
        self._commit_field()
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
            self.banner.tell("The copy can't be opened", error.faults, "fault")

    def _open_recent(self, path: Path) -> None:
        if self._may_leave():
            self.open_path(path)

    def toggle(self, name: str) -> None:
        setattr(self.canvas, name, not getattr(self.canvas, name))
        self.canvas.update()
        self._refresh()

    def show_below(self, page: QWidget) -> None:
        """Shows a table in place of the tracks, or the tracks again."""
        self.below.setCurrentWidget(self.timeline if self.below.currentWidget() is page else page)
        self._refresh()

    def toggle_bounce(self) -> None:
        self.session.player.bouncing = not self.session.player.bouncing
        self._refresh()

    def show_cams(self) -> None:
        """Shows the cam desk in place of the tracks, or the tracks again."""
        self.show_below(self.cam_desk)
        if self.below.currentWidget() is self.cam_desk:
            self._make_room(ROOM_TO_SHAPE)

    def _make_room(self, tall: int) -> None:
        """Makes the lower part of the window so tall, if it is less (pixels)."""
        sizes = self.whole.sizes()
        if sizes[1] < tall:
            self.whole.setSizes([sum(sizes) - tall, tall])

    def show_study(self, name: str) -> None:
        """Shows a study in place of the tracks, or the tracks again."""
        shown = self.below.currentWidget() is self.studies and self.studies.chosen == name
        self.below.setCurrentWidget(self.timeline if shown else self.studies)
        if not shown:
            self.studies.choose(name)
            self._make_room(ROOM_TO_STUDY)  # a form wants more room than tracks
        self._refresh()

    def toggle_theme(self) -> None:
        self.settings.put("theme", "light" if self.tokens.name == "dark" else "dark")
        self.dressing.change(self.tokens)

    def _in_theme(self) -> None:
        """What else shows colours, when the views are in another theme."""
        self._bench_icons()
        self._refresh()

    def unjudged(self) -> bool:
        now = self.session.shown
        return now is not None and not now.busy and not now.fresh

    def toggle_loop(self) -> None:
        self.session.player.looping = not self.session.player.looping
        self._refresh()

    def play(self) -> None:
        if self.session.playing:
            self.session.pause()
        else:
            self.session.play()

    def show_keys(self) -> None:
        rows = [
            f"<tr><td>{command.text.rstrip('…')}</td>"
            f"<td>&nbsp;&nbsp;&nbsp;<b>{command.keys.replace(' | ', ' or ')}</b></td></tr>"
            for command in self.registry.commands.values()
            if command.keys
        ]
        extra = "<tr><td>Nudge a number</td><td>&nbsp;&nbsp;&nbsp;<b>↑ ↓</b>, Shift tenfold, Alt a tenth</td></tr>"
        self.asking.tell("Keyboard shortcuts", f"<table>{''.join(rows)}{extra}</table>")

    def show_about(self) -> None:
        text = (
            f"<b>Anakinema {__version__}</b><p>Proves a planar mechanism before the metal is cut: travel, clearance "
            "and behaviour as numbers.</p><p>MIT licence. Typeface: Go fonts, BSD licence.</p>"
            "<p>What it finds supports an engineer's judgement and does not replace guards, local codes or "
            "licensed practice.</p>"
        )
        self.asking.tell("About Anakinema", text)

    # -- state -------------------------------------------------------------------------------------------------

    def _refresh(self) -> None:
        self.registry.refresh()
        session = self.session
        undo, redo = self.registry.actions["undo"], self.registry.actions["redo"]
        editor = session.editor
        undo.setText(f"Undo {editor.undo_stack[-1].text.lower()}" if editor.undo_stack else "Undo")
        redo.setText(f"Redo {editor.redo_stack[-1].text.lower()}" if editor.redo_stack else "Redo")
        name = session.path.name if session.path else (session.document.title if session.document else "")
        self.setWindowTitle(f"{name or 'Untitled'}[*] — Anakinema")
        self.setWindowModified(session.modified)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if self.painted is not None:
            then, self.painted = self.painted, None
            QTimer.singleShot(0, then)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.WindowStateChange and not self.isMinimized():
            self.canvas.update()  # what rested while nobody saw it goes on

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave():
            event.ignore()
            return
        self.keeper.clear()
        self.settings.put("geometry", bytes(self.saveGeometry().toBase64().data()).decode())
        self.session.pause()
        self.session.cancel()
        event.accept()

    def restore(self) -> None:
        """Takes the size and place of the last run."""
        saved = self.settings.get("geometry", "")
        if saved:
            self.restoreGeometry(QByteArray.fromBase64(saved.encode()))
