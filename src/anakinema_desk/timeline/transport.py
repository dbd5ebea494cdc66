"""The transport: play, pause, step, loop, speed, and where the motion is."""

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QAction, QMouseEvent, QResizeEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton

from anakinema.formatting import shown

from ..commands.registry import Registry
from ..session import Session
from ..theme.choices import Choice
from ..theme.icons import icon
from ..theme.kept import SteadyLabel
from ..theme.labels import Label, tip
from ..theme.tokens import Tokens

SPEEDS = (("¹⁄₁₆ ×", 1 / 16), ("¼ ×", 0.25), ("½ ×", 0.5), ("1 ×", 1.0), ("2 ×", 2.0), ("4 ×", 4.0), ("as real", 0.0))
"""What is chosen from: how fast against a usual showing, and last as fast as the mechanism really is."""


WIDE = 1180
"""Width (pixels) from which there is room for all that is told."""


class ClickedLabel(SteadyLabel):
    """A readout that is clicked to type another."""

    clicked = Signal()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        super().mouseReleaseEvent(event)
        if event.button() == Qt.MouseButton.LeftButton and self.text() and not self.hasSelectedText():
            self.clicked.emit()


class Transport(QFrame):
    """Buttons of the registry's motion commands, the speed, and a readout."""

    def __init__(self, session: Session, tokens: Tokens, registry: Registry):
        super().__init__()
        self.session, self.tokens = session, tokens
        self.setObjectName("transport")
        self.setFixedHeight(38)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 3, 12, 3)
        layout.setSpacing(2)
        self.buttons = {}
        self._picture = "play"
        for name, picture in (
            ("to-start", "to-start"),
            ("step-back", "step-back"),
            ("play", "play"),
            ("step-on", "step-on"),
            ("loop", "loop"),
            ("bounce", "bounce"),
        ):
            self.buttons[name] = self._button(registry.actions[name], picture)
            layout.addWidget(self.buttons[name])
        self.speed = Choice()
        self.speed.setAccessibleName("Speed")
        self.speed.addItems([text for text, _ in SPEEDS])
        self.speed.setCurrentIndex(3)
        self.speed.currentIndexChanged.connect(self._set_speed)
        layout.addSpacing(8)
        layout.addWidget(self.speed)
        self.slowed = Label()
        self.slowed.setProperty("role", "muted")
        layout.addSpacing(6)
        layout.addWidget(self.slowed)
        layout.addStretch(1)
        self.gaps = QToolButton()
        self.gaps.setDefaultAction(registry.actions["gaps"])
        self.gaps.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
        self.gaps.setToolTip(tip(f"All pairs of parts in a table  ({registry.actions['gaps'].shortcut().toString()})"))
        layout.addWidget(self.gaps)
        self.events = QToolButton()
        self.events.setText("Events")
        self.events.clicked.connect(registry.actions["events"].trigger)
        hint = registry.actions["events"].shortcut().toString()
        self.events.setToolTip(tip(f"Dead centres, limits, contacts, closest approaches, by their time  ({hint})"))
        layout.addWidget(self.events)
        self.parameters = QToolButton()
        self.parameters.setDefaultAction(registry.actions["parameters"])
        self.parameters.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextOnly)
        hint = registry.actions["parameters"].shortcut().toString()
        self.parameters.setToolTip(tip(f"All parameters and where they are used  ({hint})"))
        layout.addWidget(self.parameters)
        self.timing = QToolButton()
        self.timing.setText("Timing")
        self.timing.clicked.connect(registry.actions["timing"].trigger)
        self.timing.setToolTip(tip(f"When each driver moves  ({registry.actions['timing'].shortcut().toString()})"))
        layout.addWidget(self.timing)
        self.cams = QToolButton()
        self.cams.setText("Cams")
        self.cams.clicked.connect(registry.actions["cam-desk"].trigger)
        self.cams.setToolTip(tip(f"The cam desk  ({registry.actions['cam-desk'].shortcut().toString()})"))
        layout.addWidget(self.cams)
        self.studies = QToolButton()
        self.studies.setText("Studies")
        self.studies.clicked.connect(registry.actions["study-tune"].trigger)
        self.studies.setToolTip(tip("Which number gives what is wanted, and other questions "
                                f"({registry.actions['study-tune'].shortcut().toString()})"))
        layout.addWidget(self.studies)
        layout.addSpacing(12)
        self.readout = ClickedLabel()
        self.readout.clicked.connect(registry.actions["go-to"].trigger)
        self.readout.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.readout.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        layout.addWidget(self.readout)
        session.time_changed.connect(self.refresh)
        session.analysis.changed.connect(self.refresh)
        session.playing_changed.connect(self.refresh)

    def _button(self, action: QAction, picture: str) -> QToolButton:
        action.setIcon(icon(picture, self.tokens.text))
        action.setIconVisibleInMenu(False)
        button = QToolButton()
        button.setDefaultAction(action)
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonIconOnly)
        button.setIconSize(QSize(18, 18))
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setAccessibleName(action.text())
        keys = action.shortcut().toString()
        button.setToolTip(tip(f"{action.text()}  ({keys})" if keys else action.text()))
        return button

    def set_tokens(self, tokens: Tokens) -> None:
        """Takes another theme."""
        self.tokens = tokens
        for name, button in self.buttons.items():
            picture = ("pause" if self.session.playing else "play") if name == "play" else name
            button.defaultAction().setIcon(icon(picture, tokens.text))

    def _set_speed(self, index: int) -> None:
        self.session.player.real = SPEEDS[index][1] == 0.0
        self.session.player.speed = SPEEDS[index][1] or 1.0
        self.refresh()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.slowed.setVisible(self.width() >= WIDE)
        self.refresh()

    def refresh(self) -> None:
        """Shows the moment and whether it plays."""
        session = self.session
        picture = "pause" if session.playing else "play"
        if picture != self._picture:
            self._picture = picture
            self.buttons["play"].defaultAction().setIcon(icon(picture, self.tokens.text))
        motion, document = session.motion, session.document
        if session.posing.posed is not None:
            self.readout.setText("put by hand    Esc goes back to the motion, Ctrl+Return places it here")
            return
        if motion is None or document is None or session.end == 0:
            self.readout.setText("")
            self.slowed.setText("")
            return
        factor = session.player.slower
        word = f"shown {factor:.3g} times slower than real" if factor > 1.05 else ""
        self.slowed.setText(f"shown {1 / factor:.3g} times faster than real" if factor < 0.95 else word)
        value = motion.driver_value(session.time)
        step = round(session.time / motion.planned * motion.steps) if motion.planned else 0
        if value is not None:
            at = shown(value, motion.driver_dimension, document.units, 2)
            name = motion.drive.drivers[0].id
            steps = f"    step {step} of {motion.steps}" if self.width() >= WIDE else ""
            self.readout.setText(f"{name} {at}    {session.time:.4f} s{steps}")
            self.readout.setToolTip(tip(f"step {step} of {motion.steps}; a click lets another be typed (Ctrl+Shift+G)"))
