"""The real window, offscreen, with the demo open."""

import pytest

from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.theme.tokens import load_fonts
from anakinema_desk.window import Window
from windows import leave, settle


@pytest.fixture
def window(qtbot):
    load_fonts()
    made = Window(Session(), Settings())
    qtbot.addWidget(made, before_close_func=leave)
    made.resize(1280, 800)
    made.show()
    qtbot.waitExposed(made)
    made.session.open_demo()
    settle(qtbot, made)
    return made
