"""Contacts in the window: made with two clicks, seen as bars, met by the hand, told on the card."""

import json
import math
from functools import partial

import numpy as np
import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton
from test_building import slider_crank

from contacts import ECCENTRIC, FLAT, blocks, cam_and_follower
from hands import KEY
from patience import patient
from windows import settle

SCALE = 3.0


@pytest.fixture
def opened(qtbot, window, tmp_path):
    """Opens a document of a tree; gives the session."""
    return partial(_opened, qtbot, window, tmp_path / "contact.anakinema")


def _opened(qtbot, window, path, tree):
    path.write_text(json.dumps(tree), encoding="utf-8")
    window.session.open(path)
    settle(qtbot, window)
    window.canvas.fit()
    return window.session


def drag(window, start: complex, end: complex, keep: bool = False):
    """Drags a part from one place in the plane to another."""
    canvas = window.canvas
    one, two = (canvas.to_screen(QPointF(z.real, z.imag)).toPoint() for z in (start, end))
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=one)
    for share in (0.2, 0.5, 1.0):
        QTest.mouseMove(canvas, one + (two - one) * share)
        QTest.qWait(20)
    QTest.qWait(400)
    if not keep:
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=two)


def test_two_clicks_make_a_contact(hands):
    """Two plates on one level, one driven: after two clicks the one pushes the other."""
    one = hands.plate(-100 - 15j, -60 + 15j)
    hands.do("fixed", f"parts.{one}")
    ram, block = hands.plate(-40 - 10j, -20 + 10j), hands.plate(10 - 10j, 30 + 10j)
    hands.press(KEY.Key_X)
    hands.click(-30 + 0j)
    hands.click(20 + 0j)
    contact = next(iter(hands.session.document.contacts.values()))
    assert (contact.a, contact.b) == (ram, block)
    assert hands.session.selection.place == f"joints.{ram}-and-{block}" and hands.canvas.tool.name == "contact"
    hands.click(-30 + 0j)
    hands.click(20 + 0j)
    assert "a contact already" in hands.window.banner.body.text()
    hands.press(KEY.Key_Escape, KEY.Key_Escape)
    drag(hands.window, -30 + 0j, 5 + 0j)
    left, right = (hands.session.posing.poses()[part][0] for part in (ram, block))
    assert right - left == pytest.approx(20, abs=0.05) and right > 22


def test_the_hand_is_stopped_and_told_by_whom(qtbot, window, opened):
    session = opened(blocks(3, to=5, wall=120))
    drag(window, 0j, 200 + 0j, keep=True)
    assert "is held by 'wall'" in window.canvas.hand.reason or "'wall' is held by" in window.canvas.hand.reason
    assert session.posing.poses()["b0"][0] == pytest.approx(70, abs=1e-3)


def test_what_has_a_rest_falls_back_when_the_hand_lets_go(qtbot, window, opened):
    session = opened(cam_and_follower(ECCENTRIC, FLAT))
    drag(window, 34j, 70j)
    qtbot.waitUntil(lambda: abs(session.posing.poses()["foot"][1] - 30) < 1e-3)


def test_bars_events_and_marks_of_a_contact(qtbot, window):
    window.session.open_example("ratchet-feed")
    settle(qtbot, window)
    bars = [row for row in window.timeline.tracks if row.curve.bars is not None]
    assert [row.name.text() for row in bars] == ["holder and wheel", "driver-pawl and wheel"]
    assert len(bars[1].curve.drops) == 3
    window.session.go(window.session.end / 3)
    assert bars[0].value.text() == "touches"
    assert {one.contact for one in window.session.posing.touches()} == {"hold", "push"}
    window.session.selection.select("joints.push")
    settle(qtbot, window)
    drops = [button for button in window.properties.findChildren(QPushButton) if button.text().startswith("Drops at")]
    assert len(drops) == 3
    QTest.mouseClick(drops[1], Qt.MouseButton.LeftButton)
    assert window.session.time == pytest.approx(window.session.motion.path.drops[1])


def test_parts_that_overlap_are_told_and_moved_apart(qtbot, window, opened):
    tree = blocks(3, to=60)
    tree["parts"]["b1"]["pose"] = [18, 0, 0]
    session = opened(tree)
    assert "overlap by about 2 mm" in window.verdict.next.text()
    QTest.mouseClick(window.verdict.next, Qt.MouseButton.LeftButton)
    settle(qtbot, window)
    assert session.motion.stop is None
    session.undo()
    settle(qtbot, window)
    assert session.document.parts["b1"].pose[0] == 18


def test_a_ratchet_with_a_sprung_pawl(hands, monkeypatch):
    """Forward it steps tooth by tooth, the pawl falling in behind each; backward it is held; let go it is back."""
    asking = hands.window.asking
    monkeypatch.setattr(asking, "choice", lambda title, text, words: words[0])
    monkeypatch.setattr(asking, "word", lambda title, what, usual: usual)
    hands.do("ready")
    hands.do("drive", "joints.ratchet-turn")
    motion = hands.session.motion
    assert motion.stop is None and len(motion.path.drops) == 14
    assert np.ptp(motion.state.coordinates[:, motion.system.coordinates.index("ratchet-swing")]) > 0.1
    driver = next(iter(hands.session.document.drivers))
    hands.session.selection.select(f"drivers.{driver}")
    hands.retype(f"drivers.{driver}.to", "-90")
    stop = hands.session.motion.stop
    assert stop.reason == "contact" and stop.driver == pytest.approx(0, abs=1e-6)
    pawl = hands.session.posing.poses()["ratchet-pawl"]
    length = hands.session.document.parameters["ratchet_pawl"].quantity.magnitude
    grip = complex(*pawl[:2]) + 0.4 * length * np.exp(1j * pawl[2])
    drag(hands.window, complex(grip), complex(grip) * 1.3)
    lifted = hands.session.posing.poses()["ratchet-pawl"][2]
    hands.qtbot.waitUntil(lambda: bool(hands.session.posing.touches()) and not hands.canvas.hand._falling)
    assert hands.session.posing.poses()["ratchet-pawl"][2] > lifted + 0.5  # on the wheel, which it may have nudged
    print(f"ratchet: {hands.count} clicks and keys")


def test_a_plunger_whose_handle_comes_to_rest_on_a_stop(hands):
    """The push plunger again: four degrees behind the dead centre a stop is set where the handle stands."""
    level, _ = slider_crank(hands)
    session = hands.session
    hands.qtbot.waitUntil(lambda: session.findings is not None, timeout=patient(60_000))
    column = session.motion.system.coordinates.index("pin")
    lock = math.radians(360 + math.degrees(math.asin(level / 90)) - 4)
    turn = session.motion.coordinates(session.motion.grid)[:, column]
    session.go(float(np.interp(lock, turn, session.motion.grid)))
    here = float(session.posing.coordinates()[column])
    hands.do("stop-here", "parts.bar")
    assert session.motion.stop.reason == "contact" and "'stop'" in session.motion.stop.text
    assert session.motion.stop.driver == pytest.approx(here, abs=1e-6)
    print(f"plunger with a stop: {hands.count} clicks and keys")


def test_a_handle_whose_pin_meets_the_ends_of_a_curved_slot(hands):
    """The pin has play in the slot: it goes on from its end until the circles touch."""
    hands.plate(-80 - 60j, 80 + 60j)
    pivot, reach = -40j, 60.0
    hands.hole(pivot, "6")
    hands.session.selection.select("parts.frame")
    hands.press(KEY.Key_S)
    hands.press(KEY.Key_Escape)
    hands.do("tool-arc-slot")
    for spot in (pivot, pivot + reach * np.exp(1j * np.pi / 3), pivot + reach * np.exp(2j * np.pi / 3)):
        hands.click(complex(spot))
    hands.press(KEY.Key_Escape)
    slot = hands.session.document.parts["frame"].shapes[-1]
    at = complex(pivot + slot.radius * np.exp(0.5j * (slot.start + slot.stop)))
    handle = hands.bar(pivot, pivot + 130j)
    joint = list(hands.session.document.joints)[-1]
    hands.press(KEY.Key_D)
    hands.click(120 + 60j)
    hands.point(123 + 60j)
    hands.type("6")
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    pin = hands.newest()
    hands.session.selection.select(f"parts.{pin}")
    for place, text in (("0", f"{at.real:.6f}"), ("1", f"{at.imag:.6f}")):
        hands.retype(f"parts.{pin}.pose.{place}", text)
    hands.do("group", f"parts.{handle}", f"parts.{pin}")
    hands.press(KEY.Key_X)
    hands.point(at + 0.1)
    hands.press(KEY.Key_Tab)  # the handle is in front of it
    hands.click(at + 0.1)
    hands.click(-60 - 40j)
    hands.press(KEY.Key_Escape, KEY.Key_Escape)
    contact = next(iter(hands.session.document.contacts.values()))
    assert {contact.a, contact.b} == {pin, "frame"}
    play = 2 * math.asin((slot.width / 2 - 3) / 2 / slot.radius)
    half = (slot.stop - slot.start) / 2 + play
    for way in (1, -1):
        hands.drive(joint, 180 * way)
        stop = hands.session.motion.stop
        assert stop.reason == "contact" and "'frame'" in stop.text
        assert abs(stop.driver - hands.session.motion.driver_value(0.0)) == pytest.approx(half, abs=1e-6)
        hands.session.undo()
        hands.session.undo()
    print(f"handle and slot by contact: {hands.count} clicks and keys")


def test_a_stop_where_a_part_stands(qtbot, window, opened):
    session = opened(blocks(1, to=50))
    session.go(session.end / 2)
    session.selection.select("parts.b0")
    window.registry.refresh()
    window.registry.actions["stop-here"].trigger()
    settle(qtbot, window)
    assert session.motion.stop.driver == pytest.approx(25, abs=1e-4)
