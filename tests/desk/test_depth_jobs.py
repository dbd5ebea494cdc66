"""Jobs of the depth from nothing, hardware and all: the slider-crank with its pins, the rocking lever with spacer, bush
and collar, the idler arm beside its chain."""

import pytest
from test_building import slider_crank

from anakinema.document.copies import extent
from patience import patient

GRAVE = {"no longer fits", "no nut", "too short", "not held", "holes not in line", "sunk in", "in the way", "no hole"}


@pytest.fixture
def answers(window, monkeypatch):
    """What the questions are answered with, in turn: the line that begins with, or holds, the words."""
    given: list[str] = []

    def one_of(title, text, words):
        wanted = given.pop(0)
        exact = [word for word in words if word == wanted]
        return next(iter(exact or [word for word in words if word.startswith(wanted)] or
                         [word for word in words if wanted in word]))  # fmt: skip

    monkeypatch.setattr(window.asking, "one_of", one_of)
    return given


def judged(hands):
    known = lambda: hands.session.findings is not None and hands.session.analysis.shown.fresh  # noqa: E731
    hands.qtbot.waitUntil(known, timeout=patient(60_000))
    return hands.session.findings


def layered(hands, **depths):
    """Types where parts lie on their cards."""
    for name, (low, high) in depths.items():
        hands.session.selection.select(f"parts.{name}")
        hands.settle()
        hands.retype(f"{name}.depth", f"{low} to {high}")


def test_a_slider_crank_gets_its_pins(hands, answers):
    """Job 4: every pin a clevis pin or a screw, in layers that were typed; nothing grave is left in the workshop."""
    slider_crank(hands)
    document = hands.session.document
    pins = [name for name, joint in document.joints.items() if joint.kind.pin]
    order = [name for name in document.parts if document.parts[name].slabs]
    layered(hands, **{name: (30.0 * k, 30.0 * k + 6) for k, name in enumerate(order)})
    for name in pins:
        answers += ["Screw, washers", "M5"]
        hands.do("pin-joint", f"joints.{name}")
    pieces = [part.hardware for part in hands.session.document.parts.values() if part.hardware is not None]
    assert len(pieces) == 4 * len(pins) and not any(piece.unfit for piece in pieces)
    found = judged(hands)
    told = {one.name for one in found.shop if any(name in hands.session.document.carried for name in one.of)}
    assert not told & (GRAVE - {"in the way"}), found.shop
    for piece in pieces:  # each reaches from the face of one part to beyond that of the other
        if piece.kind.long:
            spans = [extent([hands.session.document.parts[ref.part]]) for ref in piece.axis]
            assert piece.length > max(high for _, high in spans) - min(low for low, _ in spans)


def test_a_rocking_lever_with_spacer_bush_and_collar(hands, answers):
    """Job 5: a lever on a pin that is pressed in its block: a spacer that fills what lies between, a bush in the lever,
    a collar before it; the pin's length is that of all of them, hand-worked: 8 + 4 + 8 + 8 = 28."""
    hands.plate(-60 - 40j, 60 + 40j)
    hands.hole(0j, "8")
    lever = hands.bar(0j, 50 + 0j)
    hands.session.selection.select(f"parts.{lever}")
    hands.settle()
    hands.retype(f"parts.{lever}.shapes.0.width", "24")
    hands.hole(0j, "10")
    base = hands.session.document.fixed_parts[0]
    layered(hands, **{base: (0, 8), lever: (12, 20)})
    pin = next(name for name, joint in hands.session.document.joints.items() if joint.kind.pin)
    for what in (["Spacer", "8x12", f"front of {base}", lever], ["Plain bearing", "8", f"front of {lever}"],
                 ["Shaft collar", "8", f"front of {lever}"],
                 ["Dowel pin", "8", f"front of {lever}-retainer", base]):  # fmt: skip
        answers += what
        hands.do("piece", f"joints.{pin}")
    made = {part.hardware.kind.name: part.hardware for part in hands.session.document.parts.values() if part.hardware}
    assert made["tube"].length == 4.0 and made["plain bearing"].length == 8.0
    assert made["pin"].length == 28.0 and not any(piece.unfit for piece in made.values())
    hands.drive(pin, 30)
    found = judged(hands)
    assert not {one.name for one in found.shop} & GRAVE, found.shop
    hands.session.selection.select(f"parts.{lever}")
    hands.settle()
    hands.retype(f"{lever}.thickness", "14")  # the lever grows: spacer as it was, pin longer, bush as long as is made
    made = {part.hardware.kind.name: part.hardware for part in hands.session.document.parts.values() if part.hardware}
    assert (made["tube"].length, made["pin"].length, made["plain bearing"].length) == (4.0, 35.0, 12.0)


def test_an_idler_arm_whose_wall_is_thin_is_told(hands, answers):
    """Job 16: what the arm is wider than its hole, halved, is its wall, 1.5: less than half its thickness of 8."""
    hands.plate(-90 - 90j, 90 + 90j)
    hands.hole(-40 + 0j, "6")
    arm = hands.bar(-40 + 0j, 20 + 0j)
    hands.session.selection.select(f"parts.{arm}")
    hands.settle()
    hands.retype(f"parts.{arm}.shapes.0.width", "9")
    hands.hole(-40 + 0j, "6")
    base = hands.session.document.fixed_parts[0]
    layered(hands, **{base: (0, 6), arm: (6, 14)})
    pin = next(name for name, joint in hands.session.document.joints.items() if joint.kind.pin)
    hands.drive(pin, 40)
    (wall,) = [one for one in judged(hands).shop if one.name == "thin wall"]
    assert wall.of == (arm,) and "1.5 mm" in wall.text
    assert hands.session.findings is not None
    answers += ["Hexagon screw", "M6"]
    hands.do("pin-joint", f"joints.{pin}")
    told = {one.name: one.text for one in judged(hands).shop}
    assert "edge distance" in told and "turned loose" in told and "lock nut" in told["turned loose"]
