"""The real window, offscreen, with the demo open."""

import pytest
from PySide6.QtWidgets import QMessageBox

from anakinema_desk.application import make_application
from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.window import Window
from hands import Hands
from windows import leave, settle


@pytest.fixture
def window(qtbot):
    make_application()
    made = Window(Session(), Settings())
    qtbot.addWidget(made, before_close_func=leave)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.session.open_demo()
    settle(qtbot, made)
    return made


@pytest.fixture
def hands(qtbot, window, monkeypatch, request):
    """Hands at an empty bench, which a module may want at a SCALE of its own."""
    monkeypatch.setattr(QMessageBox, "exec", lambda self: QMessageBox.StandardButton.Discard)
    found = Hands(qtbot, window)
    if scale := getattr(request.module, "SCALE", None):
        found.canvas.scale, found.canvas.center = scale, found.canvas.center * 0
    yield found
    print(f"{request.node.name}: {found.count} clicks and keys")  # for docs/jobs.md: pytest -s
