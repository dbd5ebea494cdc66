"""The window: bench in the middle, make-up left, card right, strip below, the verdict line above, menus over all."""

from collections.abc import Callable

from PySide6.QtCore import QByteArray, QEvent, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import (
    QMainWindow,
    QMenu,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from anakinema import __version__
from anakinema.formats import project

from .canvas.canvas import Canvas
from .canvas.lifted import LiftedView
from .canvas.side import SideView
from .collecting import Collector
from .commands.build import Build
from .commands.drawings import Drawings
from .commands.fastening import Fastening
from .commands.files import Files
from .commands.general import commands
from .commands.look import Look
from .commands.offered import Offered
from .commands.palette import Palette
from .commands.registry import Registry
from .commands.study import Study
from .commands.things import things
from .commands.together import Together
from .guard import Guard
from .keyboard import Keyboard
from .panels.banner import Banner
from .panels.bench_tools import BenchTools
from .panels.camdesk import CamDesk
from .panels.events import Events
from .panels.gaps import Gaps
from .panels.guide import FIRST_LOOK, Guide, GuideCard
from .panels.help import KEYS, Help
from .panels.model_tree import ModelTree
from .panels.parameters import Parameters
from .panels.properties import Properties
from .panels.questions import Questions
from .panels.start import Start
from .panels.study import Studies
from .panels.timing import Timing
from .panels.tree_panel import TreePanel
from .panels.trial_card import TrialCard
from .panels.verdict import VerdictLine
from .panels.view_switch import ViewSwitch
from .panels.workshop import Workshop
from .session import Session
from .settings import Settings
from .soon import soon
from .theme.dressing import Dressing
from .theme.seams import Views
from .theme.tokens import THEMES, Tokens
from .timeline.timeline import Timeline
from .timeline.transport import Transport

MENUS = ("File", "Edit", "Build", "View", "Motion", "Help")
LOWER, LEAST_LOWER = 216, 130
"""Height of the lower part of the window at first, and the least while it shows anything (pixels)."""
ROOM_TO_STUDY = 292
"""Height of the lower part of the window while a study is shown (pixels)."""
ROOM_TO_SHAPE = 330
"""The same while the cam desk is."""


class Window(QMainWindow):
    """The one window of the application."""

    banner: Banner
    canvas: Canvas
    properties: Properties
    gaps: Gaps
    events: Events
    parameters: Parameters
    studies: Studies
    timing: Timing
    cam_desk: CamDesk
    transport: Transport
    offered: Offered

    def __init__(self, session: Session, settings: Settings):
        super().__init__()
        self.session, self.settings = session, settings
        self.painted: Callable[[], None] | None = None
        self.help: Help | None = None
        """Made when it is first wanted."""
        self.collector = Collector(self)
        self.resize(1280, 800)
        self._tall = LOWER
        """Height of the lower part of the window, while it shows something."""
        self.setMinimumSize(860, 560)
        self.asking = Questions(self.menuBar(), lambda: self.tokens)
        self.files = Files(session, settings, self.asking, lambda: self.banner, self._commit_field, self.menuBar())
        doing = (session, lambda: self.canvas, lambda: self.properties, self.asking)
        self.build, self.together, self.study = Build(*doing), Together(*doing), Study(*doing)
        self.study.timeline = lambda: self.timeline
        self.fastening = Fastening(*doing)
        self.look, self.drawings = Look(session), Drawings(*doing)
        self.registry = Registry(self)
        self.registry.add(commands(self))
        self.menus = self.registry.fill(self.menuBar(), MENUS)
        examples = QMenu("Open an example", self.menuBar())
        for name in project.EXAMPLES:
            examples.addAction(self.registry.actions[f"example-{name}"])
        self.menus["File"].insertMenu(self.registry.actions["save"], examples)
        self.menus["File"].insertMenu(self.registry.actions["save"], self.files.recent_menu)
        for menu in self.menus.values():
            menu.aboutToShow.connect(self.registry.refresh)
        self._lay_out()
        self.palette_box = Palette(self.registry, self, lambda: things(session))
        self.study.chooser = self.palette_box
        views = (
            self.menuBar(), self.palette_box, self.verdict, self.banner, self.tree_panel, self.model_tree, self.canvas,
            self.side, self.lifted,
            self.properties, self.timeline,
            self.gaps, self.events, self.workshop, self.parameters, self.studies, self.timing, self.cam_desk,
            self.transport,
        )  # fmt: skip
        places = (
            self.canvas, self.side, self.lifted, self.model_tree, self.properties, self.transport, self.timeline,
            self.gaps, self.events, self.workshop,
            self.parameters, self.studies, self.timing, self.cam_desk, self.verdict,
        )  # fmt: skip
        typed = (self.properties, self.gaps, self.events, self.workshop, self.parameters, self.studies)
        self.keyboard = Keyboard(self, self.canvas, places, typed)
        self.setFocusProxy(self.canvas)
        self.dressing = Dressing(self, views, self.tokens, self._in_theme)
        for signal in (
            session.document_changed, session.analysis.changed, session.playing_changed, session.posing.changed,
        ):  # fmt: skip
            signal.connect(self._refresh)
        session.display_state.changed.connect(self._refresh)
        session.selection.changed.connect(soon(self, self.registry.refresh))
        session.analyst.judged.connect(self.collector.settle, Qt.ConnectionType.SingleShotConnection)
        session.message.connect(lambda text: self.banner.tell(text))
        session.warned.connect(lambda text, faults: self.banner.tell(text, faults, "warning"))
        session.faults_raised.connect(lambda headline, faults: self.banner.tell(headline, faults, "fault"))
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
        self.trial_card = TrialCard(self.canvas, session)
        self.properties = Properties(session, tokens)
        self.properties.table_wanted.connect(self.study.read_table)
        self.timeline = Timeline(session, tokens)
        self.timeline.menu_wanted.connect(lambda _, at: self.offered.open(at))
        self.gaps = Gaps(session, tokens)
        self.events = Events(session)
        self.workshop = Workshop(session, self.asking)
        self.parameters = Parameters(session, tokens, self.build.delete)
        self.studies = Studies(session, tokens)
        self.timing = Timing(session, tokens)
        self.cam_desk = CamDesk(session, tokens)
        self.cam_desk.write_wanted.connect(self.study.write_cam)
        self.cam_desk.table_wanted.connect(self.study.read_cam_table)
        self.properties.desk_wanted.connect(self.show_cams)
        self.properties.tool_wanted.connect(self.canvas.take)
        self.transport = Transport(session, tokens, self.registry)
        self.bench_tools = BenchTools(self.canvas, self.registry)
        self.bench_tools.set_tokens(tokens)
        self.offered = Offered(session, self.registry, self.study, self.menuBar())
        self.canvas.tool_changed.connect(self.registry.refresh)
        self.canvas.menu_wanted.connect(self.offered.open)
        self.model_tree.customContextMenuRequested.connect(
            lambda at: self.offered.open(self.model_tree.viewport().mapToGlobal(at))
        )
        self._start()
        upper = self.upper = Views(Qt.Orientation.Horizontal)
        self.tree_panel = TreePanel(self.model_tree)
        self.side, self.lifted = SideView(session, tokens), LiftedView(session, tokens)
        self.bench = QStackedWidget()
        for view in (self.canvas, self.side, self.lifted):
            self.bench.addWidget(view)
        self.view_switch = ViewSwitch(self.bench, self.registry)
        for widget, stretch in ((self.tree_panel, 0), (self.bench, 1), (self.properties, 0)):
            upper.addWidget(widget)
            upper.setStretchFactor(upper.count() - 1, stretch)
            upper.setCollapsible(upper.count() - 1, False)
        narrow = self.width() < 1150
        upper.setSizes([216 if narrow else 262, 1000, 240 if narrow else 290])
        self.tree_panel.setMinimumWidth(190)
        self.properties.setMinimumWidth(220)
        lower = QWidget()
        below = QVBoxLayout(lower)
        below.setContentsMargins(0, 0, 0, 0)
        below.setSpacing(0)
        below.addWidget(self.transport)
        self.below = QStackedWidget()
        self.below.addWidget(self.timeline)
        self.below.addWidget(self.gaps)
        self.below.addWidget(self.events)
        self.below.addWidget(self.workshop)
        self.below.addWidget(self.parameters)
        self.below.addWidget(self.studies)
        self.below.addWidget(self.timing)
        self.below.addWidget(self.cam_desk)
        below.addWidget(self.below, 1)
        self.lower_half = lower
        whole = self.whole = Views(Qt.Orientation.Vertical)
        whole.addWidget(upper)
        whole.addWidget(lower)
        whole.setStretchFactor(0, 1)
        whole.setSizes([540, LOWER])
        whole.setCollapsible(0, False)
        central = QWidget()
        layout = QVBoxLayout(central)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.verdict)
        layout.addWidget(whole, 1)
        self.setCentralWidget(central)
        self.canvas.setFocus()

    def _start(self) -> None:
        """What is offered while the bench is empty, and the guide."""
        self.guide = Guide(self.session)
        self.guide_card = GuideCard(self.canvas, self.guide)
        self.guide.changed.connect(self._offer_start)
        take = self.registry.actions
        offers = [
            ("First mechanism", "step by step, in two minutes", self.begin_guide),
            ("Draw a plate", "P: two corners; the first part is the frame", take["tool-plate"].trigger),
            ("Draw a bar", "B: two holes; drawn from a hole it is pinned there", take["tool-bar"].trigger),
            ("Parts from a drawing", "Ctrl+I: outlines of a DXF or SVG file", take["read-drawing"].trigger),
            ("Open an example", "mechanisms of a small bindery, ready to run", self._choose_example),
            ("Open a file", "Ctrl+O", take["open"].trigger),
        ]
        self.start = Start(offers, self.canvas)
        self.canvas.tool_changed.connect(self._offer_start)
        self.session.document_changed.connect(self._offer_start)
        self.session.document_changed.connect(self._fit_lower)

    def _offer_start(self) -> None:
        document = self.session.document
        wanted = document is not None and not document.parts and self.canvas.tool is None and not self.guide.text
        self.start.offer(wanted)

    def begin_demo(self) -> None:
        """Opens the demo where what is there may be left."""
        if self.files.may_leave():
            self.open_demo()

    def open_demo(self) -> None:
        """Opens the demo, with a short way through it."""
        self.session.open_demo()
        self.guide.start(FIRST_LOOK)

    def begin_guide(self) -> None:
        """Begins the guide on an empty bench."""
        if self.session.document is None or self.session.document.parts:
            self.files.new()
        if self.session.document is not None and not self.session.document.parts:
            self.guide.start()

    def _choose_example(self) -> None:
        titles = {title: name for name, title in project.EXAMPLES.items()}
        title = self.asking.one_of("Open an example", "Which?", list(titles))
        if title:
            self.files.open_example(titles[title])

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self._fit_to_size)

    def _fit_to_size(self) -> None:
        self.bench_tools.lay()
        self._offer_start()

    # -- commands ----------------------------------------------------------------------------------------------

    def _commit_field(self) -> None:
        """Takes in what is being typed, so that a save holds it."""
        for field in self.properties.fields.values():
            if field.isModified():
                field.commit()

    def toggle(self, name: str) -> None:
        setattr(self.canvas, name, not getattr(self.canvas, name))
        self.canvas.update()
        self._refresh()

    def _fit_lower(self) -> None:
        """Gives the bench the room of the tracks while nothing is driven, and there are none."""
        document = self.session.document
        wanted = self.below.currentWidget() is not self.timeline or (document is not None and bool(document.drivers))
        if self.below.isVisibleTo(self) is wanted:
            return
        sizes = self.whole.sizes()
        if not wanted:
            self._tall = max(sizes[1], LEAST_LOWER)
        self.below.setVisible(wanted)
        self.lower_half.setMinimumHeight(LEAST_LOWER if wanted else 0)
        self.lower_half.setMaximumHeight(16777215 if wanted else self.transport.height())
        tall = self._tall if wanted else self.transport.height()
        self.whole.setSizes([sum(sizes) - tall, tall])

    def show_below(self, page: QWidget) -> None:
        """Shows a table in place of the tracks, or the tracks again."""
        self.below.setCurrentWidget(self.timeline if self.below.currentWidget() is page else page)
        self._fit_lower()
        self._refresh()

    def toggle_bounce(self) -> None:
        self.session.player.bouncing = not self.session.player.bouncing
        self._refresh()

    def look_from(self, view: QWidget) -> None:
        """Shows the mechanism in plan, from the side, or lifted."""
        if view is not self.canvas:
            self.canvas.take("")
        self.bench.setCurrentWidget(view)
        view.setFocus()
        self._refresh()

    def spread_evenly(self) -> None:
        """Draws all layers of the depth view equally thick, or to scale again."""
        self.side.even = not self.side.even
        self.side.update()
        self._refresh()

    def fit(self) -> None:
        """Fits what is looked at to the bench."""
        view = self.bench.currentWidget()
        for one in (self.canvas, self.side, self.lifted):
            if one is view:
                one.fit()

    def cut_stack(self) -> None:
        """Cuts the stack through what is selected: a joint, else a part's middle; or not any more."""
        state = self.session.display_state
        if state.cut is not None:
            state.cut_along(None)
            return
        kind, name = self.session.selection.current()
        if self.session.document is None or kind not in ("joints", "parts"):
            return
        frame = self.canvas.frame
        at = frame.spot(frame.document.joints[name]) if kind == "joints" else complex(*frame.poses[name][:2])
        state.cut_along((at, at + 1.0), f"{kind}.{name}")
        self.look_from(self.side)

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
        self._fit_lower()
        if not shown:
            self.studies.choose(name)
            self._make_room(ROOM_TO_STUDY)  # a form wants more room than tracks
        self._refresh()

    def toggle_theme(self) -> None:
        self.settings.put("theme", "light" if self.tokens.name == "dark" else "dark")
        self.dressing.change(self.tokens)

    def _in_theme(self) -> None:
        """What else shows colours, when the views are in another theme."""
        self.bench_tools.set_tokens(self.tokens)
        if self.help is not None:
            self.help.set_tokens(self.tokens)
        self._refresh()

    def unjudged(self) -> bool:
        now = self.session.analysis.shown
        return now is not None and not now.busy and not now.fresh

    def toggle_loop(self) -> None:
        self.session.player.looping = not self.session.player.looping
        self._refresh()

    def play(self) -> None:
        if self.session.playing:
            self.session.pause()
        else:
            self.session.play()

    def show_help(self, section: str = "") -> None:
        """Opens the help, beside what is done."""
        if self.help is None:
            self.help = Help(self.registry, self)
            self.help.set_tokens(self.tokens)
        self.help.open_at(section)

    def show_keys(self) -> None:
        """Opens the help at the keys."""
        self.show_help(KEYS)

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
        if not self.files.may_leave():
            event.ignore()
            return
        self.files.keeper.clear()
        self.settings.put("sides", self.upper.sizes())
        self.settings.put("lower", max(self.whole.sizes()[1], LEAST_LOWER) if self.below.isVisible() else self._tall)
        self.settings.put("geometry", bytes(self.saveGeometry().toBase64().data()).decode())
        self.session.pause()
        self.session.analysis.cancel()
        event.accept()

    def restore(self) -> None:
        """Takes the size and place of the last run."""
        saved = self.settings.get("geometry", "")
        if saved:
            self.restoreGeometry(QByteArray.fromBase64(saved.encode()))
        sides = [size for size in self.settings.get("sides", []) if isinstance(size, int) and 0 <= size < 10_000]
        if len(sides) == 3:
            self.upper.setSizes(sides)
        self._tall = min(max(self.settings.get("lower", LOWER), LEAST_LOWER), 2000)
        if self.below.isVisibleTo(self):
            self.whole.setSizes([max(sum(self.whole.sizes()) - self._tall, 100), self._tall])
