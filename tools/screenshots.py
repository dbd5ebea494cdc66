"""Takes the pictures of docs/screenshots from the demo, in an offscreen window. Run by `make screenshots`."""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["ANAKINEMA_CONFIG"] = tempfile.mkdtemp()

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from anakinema.document.model import PointRef
from anakinema_desk.application import make_application
from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.window import Window

OUT = Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots")
WANTED = sys.argv[2:]


def settled(session: Session) -> None:
    """Waits for the analysis and a repaint."""
    while session.analysis.busy or session.study_client.busy:
        QTest.qWait(10)
    QTest.qWait(80)


def shoot(window: Window, name: str) -> None:
    """Saves a picture of the window."""
    if not WANTED or name in WANTED:
        settled(window.session)
        OUT.mkdir(parents=True, exist_ok=True)
        window.grab().save(str(OUT / f"{name}.png"))


def click(window: Window, z: complex) -> None:
    """Clicks the bench at a place in the plane."""
    canvas = window.canvas
    QTest.mouseMove(canvas, canvas.pixel(z).toPoint())
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, pos=canvas.pixel(z).toPoint())
    settled(window.session)


def depth(window: Window) -> None:
    """The stack cut through a pinned joint, the workshop with a caution, a lever with its hardware lifted."""
    session, take = window.session, window.registry.actions
    session.open_example("nipping-press")
    settled(session)
    session.selection.select("joints.knee")
    window.cut_stack()
    session.selection.select("parts.knee-screw")
    session.go(0.3 * session.end)
    shoot(window, "depth")
    window.cut_stack()
    window.look_from(window.canvas)
    take["workshop"].trigger()
    settled(session)
    window.workshop.table.selectRow(0)
    window.workshop.go(0)
    shoot(window, "cautions")
    take["workshop"].trigger()
    session.open_example("rocking-lever")
    settled(session)
    window.look_from(window.lifted)
    window.lifted.spread.setValue(30)
    session.selection.select("parts.lever")
    session.go(0.2 * session.end)
    shoot(window, "lifted")
    window.look_from(window.canvas)
    settled(session)


def build(window: Window) -> None:
    """The needle bar's slider-crank of the sewing head, drawn from nothing."""
    session, canvas, key = window.session, window.canvas, QTest.keyClick
    session.editor.source = None  # what is open need not be asked about
    session.new()
    shoot(window, "empty")
    settled(session)
    key(canvas, Qt.Key.Key_P)
    click(window, -80 - 30j)
    click(window, 80 + 10j)
    key(canvas, Qt.Key.Key_O)
    click(window, -50 + 0j)
    QTest.keyClicks(canvas, "6")
    key(canvas, Qt.Key.Key_Return)
    settled(session)
    key(canvas, Qt.Key.Key_B)
    click(window, -50 + 0j)
    QTest.mouseMove(canvas, canvas.pixel(-38 + 10j).toPoint())
    QTest.keyClicks(canvas, "20")
    key(canvas, Qt.Key.Key_Return)
    settled(session)
    end = canvas.world(PointRef("bar", "B"))
    click(window, complex(end.x(), end.y()))
    QTest.mouseMove(canvas, canvas.pixel(40 - 2j).toPoint())
    QTest.keyClicks(canvas, "70")
    key(canvas, Qt.Key.Key_Return)
    settled(session)
    key(canvas, Qt.Key.Key_P)
    click(window, -20 + 50j)
    click(window, 0 + 62j)
    key(canvas, Qt.Key.Key_J)
    end, block = canvas.world(PointRef("bar2", "B")), canvas.world(PointRef("plate", "A"))
    click(window, complex(end.x(), end.y()))
    click(window, complex(block.x(), block.y()))
    shoot(window, "joining")


def studies(window: Window) -> None:
    """What is asked of a motion."""
    session, take = window.session, window.registry.actions
    session.open_example("transfer-arm")
    settled(session)
    take["timing"].trigger()
    session.selection.select("joints.elbow")
    session.go(0.9)
    session.find_travel("elbow")
    settled(session)
    window.banner.hide()
    shoot(window, "limits")
    take["timing"].trigger()
    session.open_example("quick-return")
    settled(session)
    take["pin"].trigger()
    session.edit(("parameters", "crank", "value"), "21 mm", "Change crank")
    session.selection.select("tracks.speed")
    settled(session)
    session.go(0.45)
    shoot(window, "strip")
    session.open_demo()
    settled(session)
    session.selection.select("")
    take["study-tune"].trigger()
    page = window.studies.pages["tune"]
    page.finding.setCurrentIndex(page.finding.findData("checks.stroke"))
    page.wanted.setText("31 mm")
    page.begin()
    settled(session)
    page.slider.setValue(600)
    shoot(window, "tuning")
    take["study-sweep"].trigger()
    page = window.studies.pages["sweep"]
    page.one_range.setText("13 : 18 : 11")
    page.two.setCurrentText("rod")
    page.two_range.setText("58 : 66 : 5")
    page.told_too.setCurrentIndex(page.told_too.findData("checks.stroke"))
    page.begin()
    shoot(window, "sweep")
    take["study-tolerances"].trigger()
    page = window.studies.pages["tolerances"]
    for name, by in (("throw", "0.1 mm"), ("rod", "0.2 mm"), ("arm", "0.1 mm")):
        session.edit(("parameters", name, "tolerance"), by, f"Tolerance of {name}")
        settled(session)
    page.count.setValue(400)
    page.begin()
    shoot(window, "tolerances")
    for name, value in (("throw", "16 mm"), ("throw", "14.5 mm"), ("rod", "64 mm")):
        session.edit(("parameters", name, "value"), value, f"Change {name}")
        settled(session)
    session.log.mark(3, True)
    session.log.note(3, "stroke right, stays in its slot")
    take["study-trials"].trigger()
    shoot(window, "trials")
    take["study-trials"].trigger()


def main() -> None:
    make_application()
    session = Session()
    window = Window(session, Settings())
    window.resize(1280, 800)
    window.show()
    session.open_demo()
    settled(session)
    session.go(0.3 * session.end)
    shoot(window, "demo")
    window.verdict.checks.click()
    shoot(window, "check-fails")
    window.registry.actions["gaps"].trigger()
    shoot(window, "clearances")
    window.registry.actions["gaps"].trigger()
    session.selection.select("parts.rocker")
    window.registry.actions["parameters"].trigger()
    shoot(window, "parameters")
    window.registry.actions["parameters"].trigger()
    session.selection.select("parts.rocker")
    session.go(0.1 * session.end)
    shoot(window, "part")
    session.selection.select("joints.ram")
    session.go(0.2 * session.end)
    session.open_example("ratchet-feed")
    settled(session)
    session.selection.select("joints.push")
    session.go(0.3 * session.end)
    shoot(window, "ratchet")
    studies(window)
    depth(window)
    session.open_example("nip-and-trim")
    settled(session)
    session.selection.select("joints.trims")
    window.registry.actions["cam-desk"].trigger()
    QTest.qWait(900)  # until it asks what would be better
    settled(session)
    session.go(0.37 * session.end)
    shoot(window, "cam-desk")
    window.registry.actions["cam-desk"].trigger()
    build(window)
    session.open_demo()
    settled(session)
    window.resize(1024, 700)
    window.registry.actions["dark"].trigger()
    while window.dressing.busy:
        QApplication.processEvents()
    settled(session)
    window.canvas.fit()
    session.selection.select("joints.ram")
    session.go(0.45 * session.end)
    shoot(window, "dark-1024")
    session.stop()


main()
