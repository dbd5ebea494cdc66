"""Jobs that designers do, built from an empty bench with mouse and keyboard, driven, and held against closed forms."""

import numpy as np
import pytest

from hands import KEY, point_of
from patience import patient

SCALE = 3.0
"""Of the bench in these tests: room for large mechanisms."""


def disc(hands, at, size):
    """A disc about a hole of the part behind it; gives its name."""
    hands.press(KEY.Key_D)
    hands.click(at)
    hands.point(at + 10j)
    hands.type(size)
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    return hands.newest()


def test_a_motor_drives_a_ram_through_a_gear_pair(hands):
    """Job 6. The housing is frame and motor as one body. Three turns of the pinion are one of the gear, and the ram
    runs forth and back by twice the throw; where it is follows from the right triangle of the rod."""
    hands.plate(-90 - 50j, 90 + 50j)
    hands.hole(-60 + 0j, "6")
    hands.session.selection.select("parts.frame")
    hands.hole(-20 + 0j, "6")
    motor = hands.plate(-85 + 12j, -65 + 30j)
    hands.do("group", "parts.frame", f"parts.{motor}")
    pinion = disc(hands, -60 + 0j, "20")
    gear = disc(hands, -20 + 0j, "60")
    hands.do("gears-of", f"parts.{pinion}", f"parts.{gear}")  # ratio and teeth by their sizes
    hands.session.selection.select(f"parts.{gear}")
    hands.hole(-5 + 0j, "4")
    rod = hands.bar(-5 + 0j, 60 + 0j)
    ram = hands.plate(55 + 30j, 75 + 42j)
    hands.join(hands.stands(rod, "B"), hands.stands(ram, "A"))
    slide = hands.join(0 - 50j, hands.stands(ram, "A"), KEY.Key_T, KEY.Key_W)
    assert hands.session.document.joints[slide].type == "prismatic"
    hands.drive("pin", 1080)
    motion, q = hands.through()
    assert motion.mobility.dof == 1
    small, large = (q[:, motion.system.body(name), 2] - q[0, motion.system.body(name), 2] for name in (pinion, gear))
    assert large == pytest.approx(-small / 3)
    crank = point_of(motion, q, gear, list(motion.document.parts[gear].points)[-1])
    length = abs(complex(*motion.document.parts[rod].points["B"]))
    there = point_of(motion, q, ram, "A")
    assert there.real == pytest.approx(crank.real + np.sqrt(length**2 - (there.imag - crank.imag) ** 2), abs=1e-9)
    throw = abs(crank - point_of(motion, q, gear, "A"))
    assert np.ptp(throw) < 1e-9 and np.ptp(there.real) == pytest.approx(2 * throw[0], abs=1e-3)
    assert set(motion.document.groups["group"].parts) == {"frame", motor}
    assert np.ptp(q[:, motion.system.body(motor)], axis=0).max() == 0.0


def test_a_curved_slider_lifts_a_slotted_slide_that_lifts_a_wheel(hands):
    """Job 9. A block turns with the curved track that it runs in; its pin runs in the slot of a slide, whose upper side
    lifts a wheel: heights are 60 sin φ − 40, with the track's middle at −40, and the wheel's always as much above."""
    hands.plate(-80 - 60j, 80 + 60j)
    hands.session.selection.select("parts.frame")
    hands.do("tool-arc-slot")
    for spot in (-40j, -40j + 60 * np.exp(1j * np.pi / 3), -40j + 60 * np.exp(2j * np.pi / 3)):
        hands.click(complex(spot))
    hands.press(KEY.Key_Escape)
    slot = hands.session.document.parts["frame"].shapes[-1]
    middle = complex(-40j + slot.radius * np.exp(1j * (slot.start + slot.stop) / 2))
    block = hands.plate(-70 + 70j, -58 + 78j)
    track = hands.join(middle, hands.stands(block, "A"), KEY.Key_T, parts=("frame", block))
    joint = hands.session.document.joints[track]
    assert joint.type == "slide-arc" and (joint.limits.min, joint.limits.max) == pytest.approx((slot.start, slot.stop))
    slide = hands.plate(-50 - 58j, 50 - 46j)
    hands.session.selection.select(f"parts.{slide}")
    hands.slot(-40 - 52j, 40 - 52j, "4")
    pin = hands.join(hands.stands(slide, "A"), hands.stands(block, "A"), parts=(slide, block))
    assert hands.session.document.joints[pin].type == "pin-slot"
    guide = hands.join(80 + 0j, hands.stands(slide, "A") + 50, KEY.Key_W, parts=("frame", slide))
    assert hands.session.document.joints[guide].type == "prismatic"
    wheel = disc(hands, 30 + 70j, "16")
    hands.join(80 + 0j, hands.stands(wheel, "A"), KEY.Key_T, KEY.Key_W, parts=("frame", wheel))
    top = hands.stands(slide, "A") + 6j
    hands.join(top, hands.stands(wheel, "A") - 8j, KEY.Key_W, parts=(slide, wheel))
    kinds = [joint.type for joint in hands.session.document.joints.values()]
    assert sorted(kinds) == ["pin-slot", "prismatic", "prismatic", "slide-arc", "tangent"]
    hands.drive(track)
    hands.settle()
    motion = hands.session.motion
    assert motion.stop is None  # it was driven to the end of its track and no further
    q = motion.positions(motion.grid)
    phi = motion.coordinates(motion.grid)[:, motion.system.coordinates.index(track)]
    assert phi[-1] == pytest.approx(slot.stop, abs=1e-6)
    at = point_of(motion, q, block, "A")
    assert at.imag == pytest.approx(slot.radius * np.sin(phi) - 40, abs=1e-9)
    assert np.ptp(q[:, motion.system.body(block), 2] - phi) < 1e-9  # it turns with the track
    height = point_of(motion, q, slide, "A").imag
    assert height == pytest.approx(at.imag, abs=1e-9)
    assert point_of(motion, q, wheel, "A").imag - height == pytest.approx(6 + 8, abs=1e-9)


def test_a_lid_with_an_open_and_a_closed_position(hands, monkeypatch):
    """Job 12. A lid opens by 100°; both positions are kept by name and gone to; past its stop it can't be driven."""
    hands.plate(-80 - 50j, 0 - 10j)
    hands.hole(-70 - 20j, "4")
    lid = hands.bar(-70 - 20j, 0 - 20j)
    session = hands.session
    for key, value in (("min", "0"), ("max", "100")):
        session.selection.select("joints.pin")
        hands.retype(f"joints.pin.limits.{key}", value)
    hands.drive("pin", 100)
    hands.through()
    for name, share in (("closed", 0.0), ("open", 1.0)):
        hands.settle()
        session.go(share * session.end)
        monkeypatch.setattr(hands.window.asking, "word", lambda *_, name=name: name)
        hands.do("keep-position")
        assert list(session.document.positions)[-1] == name
    session.go(0.4 * session.end)
    for name, angle in (("open", 100), ("closed", 0)):
        hands.settle()
        hands.do("go-position", f"positions.{'closed' if name == 'open' else 'open'}")
        hands.qtbot.waitUntil(
            lambda name=name: session.selection.current() == ("positions", name), timeout=patient(5000)
        )
        hands.qtbot.waitUntil(
            lambda angle=angle: abs(session.posing.poses()[lid][2] - np.radians(angle)) < 1e-6, timeout=patient(10_000)
        )
    driver = next(iter(session.document.drivers))
    session.selection.select(f"drivers.{driver}")
    hands.retype(f"drivers.{driver}.to", "130")
    hands.settle()
    assert session.motion.stop.reason == "limit" and np.degrees(session.motion.stop.driver) == pytest.approx(100)


def test_an_idler_arm_that_must_keep_clear_of_a_chain(hands):
    """Job 16. An arm swings past a roller of a chain; how near its round end comes is the distance of two circles: the
    least gap, when it points at the roller, is 60 − 40 − 6 − 4. Its wall about the hole is half of what the bar is
    wider than the hole."""
    hands.plate(-90 - 90j, -70 + 90j)
    hands.hole(-80 - 30j, "6")
    hands.session.selection.select("parts.frame")
    hands.hole(-80 + 60j, "6")
    strand = disc(hands, -20 - 30j, "8")  # a roller of the chain, 60 from the arm's pivot
    hands.do("fixed", f"parts.{strand}")
    arm = hands.bar(-80 - 30j, -80 + 10j)
    hands.session.selection.select(f"parts.{arm}")
    hands.retype(f"parts.{arm}.shapes.0.width", "12")
    hands.session.selection.select(f"parts.{arm}")
    hands.hole(-80 - 30j, "6")
    for part in (arm, strand):
        hands.session.selection.select(f"parts.{part}")
        hands.session.edit((*hands.session.document.home("parts", part), "depth"), [6, 10], "Depth")
    hands.settle()
    pin = next(name for name, joint in hands.session.document.joints.items() if arm in (joint.a.part, joint.b.part))
    hands.drive(pin, -100)
    hands.settle()
    judged = lambda: hands.session.findings is not None and hands.session.analysis.shown.fresh  # noqa: E731
    hands.qtbot.waitUntil(judged, timeout=patient(30_000))
    pair = next(each for each in hands.session.findings.approaches if set(each.parts) == {arm, strand})
    assert pair.proven and pair.distance == pytest.approx(60 - 40 - 6 - 4, abs=1e-6)
    assert hands.session.findings.motion.stop is None
    bar, hole = (hands.session.document.parts[arm].shapes[k] for k in (0, -1))
    assert (bar.width - hole.diameter) / 2 == pytest.approx(3)
