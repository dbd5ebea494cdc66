"""Whole mechanisms built from an empty bench with mouse and keyboard, then driven and held against closed forms."""

import numpy as np
import pytest
from PySide6.QtWidgets import QMessageBox

from hands import KEY, Hands


@pytest.fixture
def hands(qtbot, window, monkeypatch):
    monkeypatch.setattr(QMessageBox, "exec", lambda self: QMessageBox.StandardButton.Discard)
    found = Hands(qtbot, window)
    found.bench.scale, found.bench.center = 3.0, found.bench.center * 0
    return found


def point_of(motion, q, part, point):
    """Where a point of a part is along a motion (S,)."""
    at = q[:, motion.system.body(part)]
    return at[:, 0] + 1j * at[:, 1] + complex(*motion.document.parts[part].points[point]) * np.exp(1j * at[:, 2])


def test_crossed_arms_with_pins_in_slots_raise_a_platform(hands):
    """Height by Pythagoras: two arms of length L, crossed in their middles, whose feet are x apart, are sqrt(L² − x²)
    high, and the platform stays level."""
    hands.plate(-90 - 50j, 90 - 30j)
    hands.hole(-60 - 40j)
    hands.slot(0 - 40j, 80 - 40j)
    one = hands.bar(-60 - 40j, 0 + 0j, 60 + 40j)
    two = hands.bar(60 - 40j, 0 + 0j, -60 + 40j)
    hands.join(0j, 0j)
    foot = hands.join(60 - 40j, 40 - 40j, KEY.Key_W)
    top = hands.plate(-90 + 30j, 90 + 50j)
    hands.hole(-60 + 40j)  # in the plate, which is selected, though an arm ends there too
    hands.slot(0 + 40j, 80 + 40j)
    hands.join(-60 + 40j, -60 + 40j)
    hands.join(60 + 40j, 40 + 40j, KEY.Key_W)
    document = hands.session.document
    assert document.joints[foot].type == "pin-slot"
    assert (document.joints[foot].limits.min, document.joints[foot].limits.max) == (-40, 40)  # the slot's ends
    hands.drive(foot, 38)
    motion, q = hands.through()
    assert motion.mobility.dof == 1
    length = np.hypot(120, 80)
    span = point_of(motion, q, two, "A") - point_of(motion, q, one, "A")
    height = point_of(motion, q, top, "A").imag
    assert height - height[0] == pytest.approx(np.sqrt(length**2 - span.real**2) - 80, abs=1e-6)
    assert np.ptp(q[:, motion.system.body(top), 2]) < 1e-9
    assert np.ptp(height) > 10


def test_a_strand_of_a_hundred_links_from_one(hands, monkeypatch):
    """Pulled straight, it is a hundred pitches long."""
    hands.plate(-110 - 10j, -50 + 10j)
    hands.hole(-80 + 0j)
    link = hands.bar(-80 + 0j, -68 + 0j)
    monkeypatch.setattr(hands.window, "count", lambda *_: 100)
    hands.do("strand", f"parts.{link}")
    document = hands.session.document
    assert len(document.parts) == 101
    assert len(document.joints) == 100
    last = hands.newest()
    assert document.parts[last].of == link
    hands.settle()
    hands.bench.fit()
    end = hands.stands(last, "B")
    hands.bench.hand.press(last, (12.0, 0.0))
    for turn in range(400):  # folded a little first, then pulled out
        hands.bench.hand.pull(end.real - 200 if turn < 100 else end.real + 500, 150.0 if turn < 100 else 0.0)
    assert abs(hands.stands(last, "B") + 80) == pytest.approx(100 * 12, abs=1e-3)
    hands.bench.hand.let_go()


def test_wheels_with_side_rods_turn_together_through_the_dead_points(hands):
    """Both wheels turn alike, and the second rod, a quarter turn on, is redundant but carries them through."""
    hands.plate(-100 - 10j, 100 + 10j)
    hands.hole(-60 + 0j)
    hands.hole(60 + 0j)
    wheels = []
    for at in (-60 + 0j, 60 + 0j):
        hands.press(KEY.Key_D)
        hands.click(at)
        hands.point(at + 30)
        hands.type("60")
        hands.press(KEY.Key_Return, KEY.Key_Escape)
        wheels.append(hands.newest())
        hands.session.select(f"parts.{wheels[-1]}")
        hands.hole(at + 20)
        hands.hole(at + 20j)
    hands.bar(-40 + 0j, 80 + 0j)
    hands.bar(-60 + 20j, 60 + 20j)
    document = hands.session.document
    assert len(document.joints) == 6
    hands.drive("pin")
    motion, q = hands.through()
    assert motion.mobility.dof == 1
    assert motion.mobility.redundant
    one, two = (q[:, motion.system.body(name), 2] for name in wheels)
    assert one - one[0] == pytest.approx(two - two[0], abs=1e-9)
    assert np.ptp(one) == pytest.approx(2 * np.pi)
