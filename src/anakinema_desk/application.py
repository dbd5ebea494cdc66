"""Starts the desktop application."""

import importlib
import os
import signal
import sys
import threading
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication, QStyleFactory

from .session import Session
from .settings import Settings
from .theme.tokens import font, load_fonts
from .window import Window


def _import_plainly() -> None:
    """PySide reads the source of every module that is imported after it, in case that asks for one of its optional
    features. Nothing here does, and it takes a fifth of the time until the first findings."""
    feature = importlib.import_module("shibokensupport.feature")
    if hasattr(feature, "_mod_uses_pyside"):
        feature._mod_uses_pyside = lambda module: False  # type: ignore[attr-defined]


LATER = 700
"""How long after it is shown the window loads what it may need (ms)."""
FRAME = (12, 44)
"""What a window's frame takes across and down, about (pixels)."""


def make_application() -> QApplication:
    """The Qt application, with its style and the shipped typeface."""
    _import_plainly()
    application = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(application, QApplication)
    application.setApplicationName("Anakinema")
    application.setApplicationDisplayName("Anakinema")
    QGuiApplication.setDesktopFileName("anakinema")
    load_fonts()
    application.setStyle(QStyleFactory.keys()[-1])  # the one that Qt draws by itself, alike on every desktop
    application.setFont(font())
    return application


def main(path: Path | None = None, demo: bool = False) -> int:
    """Opens the window with a file, the demo or an empty bench, and runs until it is closed."""
    if not _has_display():
        sys.stderr.write("anakinema: no display; 'anakinema run FILE' and 'anakinema check FILE' need none\n")
        return 2
    application = make_application()
    window = open_window(path, demo)
    signal.signal(signal.SIGINT, lambda *_: window.close())
    awake = QTimer()  # lets Python see Ctrl+C in the terminal
    awake.timeout.connect(lambda: None)
    awake.start(300)
    code = application.exec()
    window.session.stop()
    return code


def open_window(path: Path | None = None, demo: bool = False) -> Window:
    """The window with a file, the demo or an empty bench."""
    session = Session()
    window = Window(session, Settings())
    window.guard.install()
    window.painted = window.files.offer_left
    room = window.screen().availableGeometry()
    window.resize(min(1280, room.width() - FRAME[0]), min(800, room.height() - FRAME[1]))
    window.restore()
    if demo:
        window.open_demo()
    elif path is None or not window.files.open_path(path):
        session.new()
    window.show()
    QTimer.singleShot(LATER, lambda: threading.Thread(target=_load_ahead, daemon=True).start())
    return window


def _load_ahead() -> None:
    """Loads what the first cam, or the first drawing, would have the window wait for; on a thread of its own."""
    import shapely  # noqa: F401


def _has_display() -> bool:
    chosen = os.environ.get("QT_QPA_PLATFORM", "")
    return bool(chosen or os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or sys.platform != "linux")
