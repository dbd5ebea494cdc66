"""Whole mechanisms built from an empty bench with mouse and keyboard, then driven and held against closed forms."""

import numpy as np
import pytest
from PySide6.QtCore import QPointF

from hands import KEY, point_of

SCALE = 3.0
"""Of the bench in these tests: room for large mechanisms."""


def test_crossed_arms_with_pins_in_slots_raise_a_platform(hands):
    """Height by Pythagoras: two arms of length L, crossed in their middles, whose feet are x apart, are sqrt(L² − x²)
    high, and the platform stays level."""
    hands.plate(-90 - 50j, 90 - 30j)
    hands.hole(-60 - 40j)
    hands.slot(0 - 40j, 80 - 40j)
    one = hands.bar(-60 - 40j, 0 + 0j, 60 + 40j)
    two = hands.bar(60 - 40j, 0 + 0j, -60 + 40j)
    hands.join(0j, 0j)
    foot = next(joint.id for joint in hands.session.document.joints.values() if joint.type == "pin-slot")
    top = hands.plate(-90 + 30j, 90 + 50j)
    hands.hole(-60 + 40j, pinned=True)  # in the plate, which is selected, and pinned to the arm that ends there
    hands.session.selection.select(f"parts.{top}")
    hands.slot(0 + 40j, 80 + 40j)
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
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: "100")
    hands.do("strand", f"parts.{link}")
    document = hands.session.document
    assert len(document.parts) == 101
    assert len(document.joints) == 100
    last = hands.newest()
    assert document.parts[last].of == link
    hands.settle()
    hands.canvas.fit()
    end = hands.stands(last, "B")
    hands.canvas.hand.press(last, (12.0, 0.0))
    for turn in range(400):  # folded a little first, then pulled out
        hands.canvas.hand.pull(end.real - 200 if turn < 100 else end.real + 500, 150.0 if turn < 100 else 0.0)
    assert abs(hands.stands(last, "B") + 80) == pytest.approx(100 * 12, abs=1e-3)
    hands.canvas.hand.let_go()


def test_wheels_with_side_rods_turn_together_through_the_dead_points(hands):
    """Both wheels turn alike, and the second rod, a quarter turn on, is redundant but carries them through."""
    hands.plate(-100 - 10j, 100 + 10j)
    hands.hole(-60 + 0j)
    hands.hole(60 + 0j)
    hands.press(KEY.Key_D)
    hands.click(-60 + 0j)
    hands.point(-30 + 0j)
    hands.type("60")
    hands.press(KEY.Key_Return, KEY.Key_Escape)
    wheels = [hands.newest()]
    hands.session.selection.select(f"parts.{wheels[0]}")
    hands.hole(-40 + 0j)
    hands.hole(-60 + 20j)
    hands.session.selection.select(f"parts.{wheels[0]}")
    hands.press(KEY.Key_C)
    hands.click(60 + 0j)  # the second wheel is a copy of the first, on the other hole
    hands.press(KEY.Key_Escape)
    wheels.append(hands.newest())
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


def cylinder(hands, at, length):
    """A tube and a rod that slides in it, lying along x from a place; gives the names of both."""
    hands.press(KEY.Key_B)
    hands.click(at)
    hands.click(at + length)
    hands.press(KEY.Key_Escape)
    tube = hands.newest()
    hands.press(KEY.Key_B)
    hands.click(at + 20 - 20j)
    hands.click(at + 10 + length - 20j)  # shorter, so that its end is told from the tube's
    hands.press(KEY.Key_Escape)
    rod = hands.newest()
    # The rod's end is brought to the tube's, and slides along it.
    hands.join(hands.stands(tube, "A"), hands.stands(rod, "A"), KEY.Key_T, KEY.Key_T)
    return tube, rod


def test_an_arm_with_three_cylinders_that_are_one_sub_assembly(hands, monkeypatch):
    """A chain of three bars, each turned by a cylinder on the one before: what a cylinder is driven to is the distance
    of its two pins."""
    answers = iter(["cylinder"])
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: next(answers))
    hands.canvas.center = QPointF(-60, -20)
    hands.plate(-140 - 80j, -60 - 60j)
    hands.hole(-130 - 70j)
    tube, rod = cylinder(hands, -50 - 70j, 40)
    assert hands.session.document.joints["slide"].type == "prismatic"
    hands.do("gather", f"parts.{tube}", f"parts.{rod}")
    assert list(hands.session.document.uses) == ["cylinder"]
    for count in (2, 3):
        hands.do("use-again", "uses.cylinder")
        assert hands.newest().startswith(f"cylinder{count}/")
    session = hands.session

    def last_point(part):
        return list(session.document.parts[part].points)[-1]

    # A chain of three bars on the frame, each with a foot for the cylinder that turns it.
    arms = [hands.bar(-130 - 70j, -130 - 30j), hands.bar(-130 - 30j, -100 - 10j), hands.bar(-100 - 10j, -60 - 10j)]
    assert len([joint for joint in session.document.joints if joint.startswith("pin")]) == 3
    feet = ["frame", arms[0], arms[1]]
    for k, (foot, arm) in enumerate(zip(feet, arms, strict=True)):
        use = "cylinder" if k == 0 else f"cylinder{k + 1}"
        session.selection.select(f"parts.{foot}")
        spot = (-90 - 70j) if k == 0 else hands.between(foot, 0.25)
        hands.hole(spot, "4")
        hands.do("isolate", f"uses.{use}", f"parts.{foot}")
        tube_of, rod_of = f"{use}/{tube}", f"{use}/{rod}"
        hands.join(hands.stands(foot, last_point(foot)), hands.stands(tube_of, "A"), parts=(foot, tube_of))
        hands.do("show-all")
        session.selection.select(f"parts.{arm}")
        hands.hole(hands.between(arm, 0.5), "4")
        hands.do("isolate", f"uses.{use}", f"parts.{arm}")
        way = hands.stands(arm, "C") - hands.stands(foot, last_point(foot))
        session.selection.select(f"uses.{use}")
        hands.retype(f"parts.{use}.pose.2", f"{np.degrees(np.angle(way)):.1f}")  # turned toward where it is to go
        hands.join(hands.stands(arm, "C"), hands.stands(rod_of, "B"), parts=(arm, rod_of))
        hands.do("show-all")
    for k in range(3):
        use = "cylinder" if k == 0 else f"cylinder{k + 1}"
        hands.drive(f"{use}/slide")
        name = list(session.document.drivers)[-1]
        place = ("drivers", name, "to")
        column = session.motion.system.coordinates.index(f"{use}/slide")
        begins = float(session.motion.coordinates(np.zeros(1))[0, column])
        assert not session.edit(place, round(begins - 4, 6), "four millimetres in")
        hands.settle()
    motion, q = hands.through()
    assert motion.mobility.dof == 3
    for k, (foot, arm) in enumerate(zip(feet, arms, strict=True)):
        use = "cylinder" if k == 0 else f"cylinder{k + 1}"
        one, two = point_of(motion, q, foot, last_point(foot)), point_of(motion, q, arm, "C")
        column = motion.system.coordinates.index(f"{use}/slide")
        slide = motion.at(motion.grid).coordinates[:, column]
        assert np.abs(two - one) == pytest.approx(slide + 30, abs=1e-6)  # the rod's length beyond its start
        assert np.ptp(slide) == pytest.approx(4, abs=1e-6)


def test_a_gripper_with_mirrored_jaws_on_parallelograms(hands, monkeypatch):
    """One jaw is drawn, the other is its mirror image: both stay parallel, and open alike as the ram slides; the links
    keep their length."""
    hands.canvas.center = QPointF(-40, 0)
    names = iter(["jaw"])
    monkeypatch.setattr(hands.window.asking, "word", lambda *_: next(names))
    hands.plate(-140 - 40j, 0 + 40j)
    for hole in (-60 + 30j, -20 + 30j, -60 - 30j, -20 - 30j):
        hands.hole(hole)
    back = hands.bar(-60 + 30j, -50 + 50j, -40 + 70j)
    front = hands.bar(-20 + 30j, 0 + 70j)
    grip = hands.bar(-40 + 70j, 0 + 70j, 50 + 70j)
    hands.join(0 + 70j, 0 + 70j)
    assert len(hands.session.document.joints) == 4
    hands.do("gather", *(f"parts.{name}" for name in (back, front, grip)))
    hands.do("use-mirrored", "uses.jaw")
    document = hands.session.document
    assert document.uses["jaw2"].mirror
    assert set(document.joints) >= {"jaw/pin3", "jaw2/pin3", "pin", "pin2"}
    for arm, hole in ((back, -60 - 30j), (front, -20 - 30j)):
        hands.do("isolate", f"parts.jaw2/{arm}", "parts.frame")
        hands.join(hole, hands.stands(f"jaw2/{arm}", "A"))
        hands.do("show-all")
    ram = hands.plate(-110 - 6j, -90 + 6j)
    hands.join(-70 - 40j, hands.stands(ram, "A"), KEY.Key_T, KEY.Key_W)  # along the plate's lower side
    slide = list(hands.session.document.joints)[-1]
    assert hands.session.document.joints[slide].type == "prismatic"
    links = []
    for use in ("jaw", "jaw2"):
        links.append(hands.bar(hands.stands(ram, "A"), hands.stands(f"{use}/{back}", "B")))
    hands.drive(slide, -45)
    motion, q = hands.through()
    assert motion.mobility.dof == 1
    upper, lower = (q[:, motion.system.body(f"{use}/{grip}")] for use in ("jaw", "jaw2"))
    assert np.ptp(upper[:, 2]) < 1e-9
    assert np.ptp(lower[:, 2]) < 1e-9
    assert upper[:, 1] == pytest.approx(-lower[:, 1], abs=1e-6)
    assert np.ptp(upper[:, 1]) > 4
    pin = point_of(motion, q, ram, "A")
    length = abs(complex(*motion.document.parts[links[0]].points["B"]))
    assert np.abs(point_of(motion, q, f"jaw/{back}", "B") - pin) == pytest.approx(length, abs=1e-9)


def test_a_gripper_whose_second_jaw_is_mirrored_with_its_joints(hands):
    """The same in less: jaw and link are drawn once, and mirrored about the ram's way with all their pins."""
    hands.canvas.center = QPointF(-40, 0)
    hands.plate(-140 - 40j, 0 + 40j)
    for hole in (-60 + 30j, -20 + 30j, -60 - 30j, -20 - 30j):
        hands.hole(hole)
    ram = hands.plate(-110 - 6j, -90 + 6j)
    slide = hands.join(-70 - 40j, hands.stands(ram, "A"), KEY.Key_T, KEY.Key_W)
    back = hands.bar(-60 + 30j, -50 + 50j, -40 + 70j)
    front = hands.bar(-20 + 30j, 0 + 70j)
    grip = hands.bar(-40 + 70j, 0 + 70j, 50 + 70j)
    hands.join(0 + 70j, 0 + 70j)
    link = hands.bar(hands.stands(ram, "A"), hands.stands(back, "B"))
    hands.do("tool-mirror-about", *(f"parts.{name}" for name in (back, front, grip, link)))
    hands.click(-130 + 0j)
    hands.click(-10 + 0j)
    hands.press(KEY.Key_Escape)
    document = hands.session.document
    copies = {part.of: part.id for part in document.parts.values() if part.of}
    assert len(copies) == 4 and len(document.joints) == 2 * 6 + 1
    hands.drive(slide, -45)
    motion, q = hands.through()
    assert motion.mobility.dof == 1 and motion.stop is None
    upper, lower = (q[:, motion.system.body(name)] for name in (grip, copies[grip]))
    assert np.ptp(upper[:, 2]) < 1e-9 and np.ptp(lower[:, 2]) < 1e-9
    assert upper[:, 1] == pytest.approx(-lower[:, 1], abs=1e-6) and np.ptp(upper[:, 1]) > 4


def test_a_pen_on_two_crossed_slides_draws_an_ellipse(hands):
    """The trammel: pins a apart that keep to two crossed slots, and a pen b beyond one of them, draw half axes of b and
    a + b (the trammel of Archimedes, any text on mechanisms)."""
    hands.plate(-80 - 80j, 80 + 80j)
    hands.slot(-70 + 0j, 70 + 0j, "6")
    hands.session.selection.select("parts.frame")
    hands.slot(0 - 70j, 0 + 70j, "6")
    bar = hands.bar(-40 + 0j, 0 + 30j, 40 + 60j)
    pins = [joint.type for joint in hands.session.document.joints.values()]
    assert pins == ["pin-slot", "pin-slot"]  # drawn from a slot and through one: a pin in each
    hands.drive("slot", 40)
    motion, q = hands.through()
    pen = point_of(motion, q, bar, "C")
    assert (pen.real / 50) ** 2 + (pen.imag / 100) ** 2 == pytest.approx(np.ones(pen.size), abs=1e-9)
    assert np.ptp(pen.real) > 20


def test_parallel_shafts_with_a_floating_disc_turn_alike(hands):
    """A disc that slides in each of two offset discs, crosswise, passes the turn on without a change."""
    hands.plate(-60 - 60j, 60 + 60j)
    discs = []
    for at, size in ((-8 + 0j, "60"), (8 + 0j, "60"), (0 + 75j, "20")):
        if size == "60":
            hands.hole(at, "6")
        hands.press(KEY.Key_D)
        hands.click(at)
        hands.point(at + 12j)
        hands.type(size)
        hands.press(KEY.Key_Return, KEY.Key_Escape)
        discs.append(hands.newest())
    for disc, way in zip(discs, ("0", "90"), strict=False):
        at, middle = (hands.stands(name, "A") for name in (disc, discs[2]))
        name = hands.join(at, middle, KEY.Key_T, KEY.Key_T, parts=(disc, discs[2]))
        assert hands.session.document.joints[name].type == "prismatic"
        hands.session.selection.select(f"joints.{name}")
        hands.retype(f"joints.{name}.direction", way)
    hands.drive("pin", 360)
    motion, q = hands.through()
    one, two = (q[:, motion.system.body(name), 2] for name in discs[:2])
    assert one - one[0] == pytest.approx(two - two[0], abs=1e-9)


def test_a_handle_whose_swing_is_set_by_a_curved_slot(hands):
    """The slot runs from 60° to 120° about the pivot: so far the handle swings."""
    hands.plate(-80 - 60j, 80 + 60j)
    hands.hole(0 - 40j, "6")
    hands.session.selection.select("parts.frame")
    hands.press(KEY.Key_S)
    hands.press(KEY.Key_Escape)
    hands.do("tool-arc-slot")
    reach = 60.0
    for spot in (-40j, -40j + reach * np.exp(1j * np.pi / 3), -40j + reach * np.exp(2j * np.pi / 3)):
        hands.click(complex(spot))
    hands.press(KEY.Key_Escape)
    slot = hands.session.document.parts["frame"].shapes[-1]
    middle = (slot.start + slot.stop) / 2
    pin = complex(-40j + slot.radius * np.exp(1j * middle))
    handle = hands.bar(-40j, pin, -40j + 90j)
    name = hands.join(pin, pin, KEY.Key_W, parts=("frame", handle))
    joint = hands.session.document.joints[name]
    assert joint.type == "pin-slot"
    assert (joint.limits.min, joint.limits.max) == pytest.approx((slot.start, slot.stop))
    hands.drive("pin")
    hands.settle()
    motion = hands.session.motion
    assert motion.stop.reason == "limit"
    column = motion.system.coordinates.index(name)
    assert motion.at(motion.grid[-1:]).coordinates[0, column] == pytest.approx(slot.stop, abs=1e-6)
