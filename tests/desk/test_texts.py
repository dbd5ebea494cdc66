"""All views with the long names of the examples: no text is cut without a tooltip, none lies over another."""

import os
import subprocess
import sys

import pytest
from PySide6.QtWidgets import QAbstractScrollArea, QPushButton

from anakinema.document import Set
from patience import patient
from texts import problems, tags_over_each_other
from windows import settle

VIEWS = ("study-tune", "study-sweep", "study-tolerances", "study-trials", "study-plot", "gaps", "events", "parameters",
         "timing", "cams")  # fmt: skip


def looked_through(window, settled, views=VIEWS):
    """What is wrong in any view, with one thing of each kind selected."""
    session, found = window.session, []

    def look(where):
        settled()
        window.grab()
        found.extend(f"{where}: {one}" for one in (*problems(window), *tags_over_each_other(window.canvas)))

    look("first")
    document = session.document
    kinds = ("parts", "joints", "couplings", "contacts", "drivers", "traces", "checks", "measures", "uses", "positions")
    for kind in kinds:
        names = sorted(getattr(document, kind), key=len)
        section = "joints" if kind in ("couplings", "contacts") else kind
        for name in names[-1:]:
            session.selection.select(f"{section}.{name}")
            look(f"{kind} {name}")
    session.selection.select("")
    for name in views:
        action = window.registry.actions.get(name)
        if action is not None and action.isEnabled():
            action.trigger()
            look(name)
    return found


CASES = [
    ((1024, 700), "light", "sewing-head"), ((1280, 800), "dark", "nip-and-trim"), ((1024, 700), "dark", "cam-box"),
    ((1280, 800), "light", "transfer-arm"), ((1024, 700), "light", "ratchet-feed"),
]  # fmt: skip


@pytest.mark.parametrize(("size", "theme", "example"), CASES, ids=[case[2] for case in CASES])
def test_texts_are_whole_and_apart(qtbot, window, size, theme, example):
    window.resize(*size)
    if window.tokens.name != theme:
        window.registry.actions["dark"].trigger()
    window.session.open_example(example)
    assert not looked_through(window, lambda: settle(qtbot, window))


def test_texts_are_whole_and_apart_at_double_scale():
    """In a program of its own, for the scale is chosen when it starts."""
    case = f"{__file__}::test_texts_are_whole_and_apart[cam-box]"
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", case]
    scaled = {**os.environ, "QT_SCALE_FACTOR": "2"}
    done = subprocess.run(command, check=False, env=scaled, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout


def test_every_study_shows_its_action_and_its_result_without_scrolling(qtbot, window):
    """At 1280 × 800, after each was asked: its buttons are whole, nothing of what was found lies aside."""
    window.resize(1280, 800)
    session = window.session
    session.open_example("sewing-head")
    settle(qtbot, window)
    session.apply([Set(("parameters", name, "tolerance"), "0.1 mm") for name in ("throw", "rod")], "Tolerances")
    settle(qtbot, window)
    for name in ("tune", "sweep", "tolerances", "trials", "plot"):
        window.registry.actions[f"study-{name}"].trigger()
        page = window.studies.pages[name]
        if name == "tune":
            page.finding.setCurrentIndex(page.finding.findData("checks.stroke"))
            page.wanted.setText("31")
        if hasattr(page, "run"):
            page.run.click()
            qtbot.waitUntil(lambda: not session.study_client.busy, timeout=patient(30_000))
        settle(qtbot, window)
        window.grab()
        for button in page.findChildren(QPushButton):
            if button.isVisibleTo(page):
                seen = button.visibleRegion().boundingRect()
                assert seen == button.rect(), (name, button.text())
        for area in page.findChildren(QAbstractScrollArea):
            if area.isVisible():
                assert not area.horizontalScrollBar().isVisible(), (name, area.accessibleName())
