"""Takes the pictures of docs/screenshots from the demo, in an offscreen window. Run by `make screenshots`."""

import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["ANAKINEMA_CONFIG"] = tempfile.mkdtemp()

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from anakinema.document.model import PointRef
from anakinema_desk.application import make_application
from anakinema_desk.session import Session
from anakinema_desk.settings import Settings
from anakinema_desk.window import Window

OUT = Path(sys.argv[1] if len(sys.argv) > 1 else "docs/screenshots")
WANTED = sys.argv[2:]


def settled(session: Session) -> None:
    """Waits for the analysis and a repaint."""
    while session.busy:
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
    bench = window.bench
    QTest.mouseMove(bench, bench.pixel(z).toPoint())
    QTest.mouseClick(bench, Qt.MouseButton.LeftButton, pos=bench.pixel(z).toPoint())
    settled(window.session)


def build(window: Window) -> None:
    """The needle bar's slider-crank of the sewing head, drawn from nothing."""
    session, bench, key = window.session, window.bench, QTest.keyClick
    session.editor.source = None  # what is open need not be asked about
    session.new()
    shoot(window, "empty")
    settled(session)
    key(bench, Qt.Key.Key_P)
    click(window, -80 - 30j)
    click(window, 80 + 10j)
    key(bench, Qt.Key.Key_O)
    click(window, -50 + 0j)
    QTest.keyClicks(bench, "6")
    key(bench, Qt.Key.Key_Return)
    settled(session)
    key(bench, Qt.Key.Key_B)
    click(window, -50 + 0j)
    QTest.mouseMove(bench, bench.pixel(-38 + 10j).toPoint())
    QTest.keyClicks(bench, "20")
    shoot(window, "building")
    key(bench, Qt.Key.Key_Return)
    settled(session)
    end = bench.world(PointRef("bar", "B"))
    click(window, complex(end.x(), end.y()))
    QTest.mouseMove(bench, bench.pixel(40 - 2j).toPoint())
    QTest.keyClicks(bench, "70")
    key(bench, Qt.Key.Key_Return)
    settled(session)
    key(bench, Qt.Key.Key_P)
    click(window, -20 + 50j)
    click(window, 0 + 62j)
    key(bench, Qt.Key.Key_J)
    end, block = bench.world(PointRef("bar2", "B")), bench.world(PointRef("plate", "A"))
    click(window, complex(end.x(), end.y()))
    click(window, complex(block.x(), block.y()))
    shoot(window, "joining")


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
    session.select("parts.rocker")
    window.registry.actions["parameters"].trigger()
    shoot(window, "parameters")
    window.registry.actions["parameters"].trigger()
    session.select("joints.pivot")
    session.go(0.62 * session.end)
    shoot(window, "joint")
    session.select("parts.rocker")
    session.go(0.1 * session.end)
    shoot(window, "part")
    session.select("joints.ram")
    session.go(0.2 * session.end)
    spot = window.bench.world(PointRef("rod", "Q"))
    window.bench.hand.press("rod", (62.0, 0.0))
    for _ in range(40):
        window.bench.hand.pull(spot.x() + 34, spot.y() - 40)
    shoot(window, "hand")
    window.bench.hand.let_go()
    session.unpose()
    for name, place, share in (("folder-drive", "joints.mesh", 0.13), ("paper-lift", "joints.contact", 0.1)):
        session.open_example(name)
        settled(session)
        session.select(place)
        session.go(share * session.end)
        shoot(window, name)
    session.open_example("clamp")
    settled(session)
    session.select("uses.upper")
    session.go(0.5 * session.end)
    shoot(window, "sub-assembly")
    session.open_example("delivery-chain")
    settled(session)
    end = window.bench.world(PointRef("link40", "B"))
    window.bench.hand.press("link40", (12.0, 0.0))
    for k in range(60):
        window.bench.hand.pull(end.x() - 1.2 * k, end.y() + 2.2 * k)
    shoot(window, "delivery-chain")
    window.bench.hand.let_go()
    session.open_demo()
    settled(session)
    session.select("")
    window.registry.actions["palette"].trigger()
    window.palette_box.field.setText("st")
    shoot(window, "palette")
    window.palette_box.hide()
    build(window)
    session.open_demo()
    settled(session)
    window.resize(1024, 700)
    window.registry.actions["dark"].trigger()
    settled(session)
    window.bench.fit()
    session.select("joints.ram")
    session.go(0.45 * session.end)
    shoot(window, "dark-1024")
    session.stop()


main()
