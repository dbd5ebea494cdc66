"""Wheels in mesh against handbook formulas, general geometry and the drawing of a rack's cuts."""

import math

import numpy as np
import pytest
import shapely
from shapely import affinity

from anakinema.document import Set, changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.geometry.involute import Teeth, inv, mesh, sum_of_shifts, tight_distance, wheel
from anakinema.operations.ready import make_ready
from gears import poly, train


def span(teeth: Teeth, over: int) -> float:
    """Width over so many teeth, from the outline: the least distance of two parallel lines that touch their outer
    flanks from outside."""
    points = np.array([complex(*p) for p in poly(wheel(teeth)).exterior.coords])
    pitch = math.tau / teeth.count
    angle = np.angle(points)
    middle = (over - 1) / 2 * pitch
    some = points[(np.abs(angle - middle) < (over - 1) / 2 * pitch + pitch / 2) & (np.abs(points) > teeth.base_radius)]
    turned = some * np.exp(-1j * (middle + math.pi / 2)) * 1j
    # Flanks to both sides of the middle line: the tangent lines that are square to the base circle's tangent.
    base = teeth.base_radius
    polar, radius = np.angle(turned), np.abs(turned)
    reach = np.sqrt(radius**2 - base**2)
    return float(2 * base * np.median(np.abs(polar[np.abs(polar) > (over - 1) / 2 * pitch * 0.98])
                                      + reach[np.abs(polar) > (over - 1) / 2 * pitch * 0.98] / base
                                      - np.arctan(reach[np.abs(polar) > (over - 1) / 2 * pitch * 0.98] / base)))


@pytest.mark.parametrize(("count", "over", "shift"), [(24, 3, 0.0), (40, 5, 0.0), (30, 4, 0.3)])
def test_span_over_teeth(count, over, shift):
    """W = m cos α ((k − ½) π + z inv α) + 2 x m sin α (any gear handbook; from memory). Where the outline's flanks are
    involutes of the base circle, half the span is the arc of that from the middle line."""
    alpha = math.radians(20)
    wanted = 2 * math.cos(alpha) * ((over - 0.5) * math.pi + count * inv(alpha)) + 2 * shift * 2 * math.sin(alpha)
    teeth = Teeth(2.0, count, shift=shift)
    half = (over - 1) * math.pi / count + teeth.half_angle(teeth.pitch_radius) + inv(alpha)
    assert 2 * teeth.base_radius * half == pytest.approx(wanted, rel=1e-12)
    assert span(teeth, over) == pytest.approx(wanted, abs=5e-3)


def test_contact_ratio_of_a_worked_example():
    """20 and 40 teeth, 20°, full depth: 1.635 (as in many texts; from memory); rack and pinion of 20 by hand."""
    assert mesh(Teeth(1.0, 20), Teeth(1.0, 40), 30.0).contact_ratio == pytest.approx(1.635, abs=5e-4)
    # Where a pinion of 10 is undercut, what is left of its flank shortens the contact.
    assert mesh(Teeth(1.0, 10), Teeth(1.0, 40), 25.0).contact_ratio < 1.25
    wide = mesh(Teeth(1.0, 20), Teeth(1.0, 40), 30.2)
    assert wide.contact_ratio < 1.5 and wide.backlash > 0
    working = math.acos(30 * math.cos(math.radians(20)) / 30.2)
    assert wide.backlash == pytest.approx(2 * 30 * math.cos(math.radians(20)) * (inv(working) - inv(math.radians(20)))
                                          / math.cos(math.radians(20)), rel=1e-9)  # fmt: skip


def test_undercut_and_working_distance():
    """Fewest teeth without undercut of a rack of depth 1: 2 / sin² α, 17.1 at 20°, 32 at 14.5° (any text)."""
    sharp = {"dedendum": 1.0}  # all of the rack's tooth is straight
    assert Teeth(1.0, 17, **sharp).undercut and not Teeth(1.0, 18, **sharp).undercut
    low = math.radians(14.5)
    assert Teeth(1.0, 31, low, **sharp).undercut and not Teeth(1.0, 32, low, **sharp).undercut
    one, two = Teeth(3.0, 12, shift=0.6), Teeth(3.0, 24, shift=0.36)
    # Handbook example: z 12 and 24, m 3, x 0.6 and 0.36: working angle 26.0886°, distance 56.4999 (KHK-style; memory).
    assert tight_distance(one, two) == pytest.approx(56.4999, abs=1e-4)
    assert sum_of_shifts(Teeth(3.0, 12), Teeth(3.0, 24), 56.4999) == pytest.approx(0.96, abs=1e-4)


@pytest.mark.parametrize("teeth", [Teeth(2, 9), Teeth(2, 16, shift=0.2), Teeth(2, 30), Teeth(3, 14, backlash=0.2)])
def test_the_outline_is_what_a_rack_leaves(teeth):
    """A rack with rounded tips, rolled along the pitch circle and cut away by a general geometry library at 1,200
    places, leaves the outline, root curves and undercut and all."""
    m, r, pitch = teeth.module, teeth.pitch_radius, math.pi * teeth.module
    alpha, rho = teeth.pressure, teeth.tip_fillet
    tip = teeth.dedendum * m - rho
    half = pitch / 4 + teeth.backlash / 2 + tip * math.tan(-alpha) - rho / math.cos(alpha)
    core = [(-half, -tip), (half, -tip)]
    wide = m * 3
    core += [(half + (tip + wide) * math.tan(alpha), wide), (-half - (tip + wide) * math.tan(alpha), wide)]
    tooth = shapely.Polygon(core).buffer(rho, quad_segs=64)
    left = shapely.Point(0, 0).buffer(teeth.tip_radius, quad_segs=512)
    window = shapely.box(-1.2 * pitch, r - 3 * m, 1.2 * pitch, r + 3 * m)
    cuts = []
    for u in np.linspace(-2.4 * pitch, 2.4 * pitch, 1201).tolist():
        rack = affinity.translate(tooth, u, r + teeth.shift * m)
        cuts.append(affinity.rotate(rack, math.degrees(u / r), origin=(0, 0)))
    gap = shapely.unary_union(cuts).intersection(affinity.scale(window, 2, 2))
    sector = math.pi / teeth.count
    wedge = shapely.Polygon([(0, 0), (-3 * r * math.sin(sector), 3 * r * math.cos(sector)),
                             (3 * r * math.sin(sector), 3 * r * math.cos(sector))])  # fmt: skip
    wanted = left.difference(gap).intersection(wedge)
    made = affinity.rotate(poly(wheel(teeth)), 90 + 180 / teeth.count, origin=(0, 0)).intersection(wedge)
    assert made.symmetric_difference(wanted).area < 2e-3 * m * m
    assert made.is_valid


@pytest.mark.parametrize(("one", "two", "center"), [
    ({"module": 2, "teeth": 20}, {"module": 2, "teeth": 40}, (48, 36)),
    ({"module": 2, "teeth": 12, "shift": 0.3}, {"module": 2, "teeth": 30, "shift": -0.3, "phase": "7 deg"}, (0, 42)),
    ({"module": 2, "teeth": 20}, {"module": 2, "teeth": 60, "internal": True, "addendum": 0.8}, (-32, -24)),
    ({"module": 2, "teeth": 60, "internal": True, "addendum": 0.8}, {"module": 2, "teeth": 20}, (24, -32)),
])  # fmt: skip
def test_teeth_mesh_however_they_were_placed(one, two, center):
    """Parts are turned into mesh; teeth never overlap, and touch along the line of action."""
    document = read_document(train(one, two, center, (11, 23)))
    motion = analyse(document).motion
    shapes = {}
    for name in ("one", "two"):
        teeth = document.parts[name].shapes[0].profile
        outline = poly(wheel(teeth), 3)
        turn = math.degrees(document.parts[name].shapes[0].phase) + (180 / teeth.count if teeth.internal else 0)
        outline = affinity.rotate(outline, turn, origin=(0, 0))
        if teeth.internal:
            outline = shapely.Point(0, 0).buffer(teeth.root_radius + 5).difference(outline)
        shapes[name] = outline
    for q in motion.positions(np.linspace(0, motion.path.t1, 9)):
        stands = {name: q[motion.system.body(name)].tolist() for name in ("one", "two")}
        placed = [affinity.translate(affinity.rotate(shapes[name], math.degrees(angle), (0, 0)), x, y)
                  for name, (x, y, angle) in stands.items()]  # fmt: skip
        assert placed[0].intersection(placed[1]).area < 1e-5  # by sides of their arcs
        assert placed[0].distance(placed[1]) < 2e-4


def test_a_rack_and_its_pinion_mesh():
    tree = train({"module": 2, "teeth": 18}, {"module": 2, "teeth": 12}, (0, -18))
    tree["parts"]["two"] = {"pose": [-33.3, -18, 0], "points": {"O": [0, 0]}, "shapes": [
        {"kind": "rack-teeth", "start": [0, 0], "direction": 0, "module": 2, "teeth": 12}]}  # fmt: skip
    tree["joints"]["b"] = {"type": "prismatic", "a": "frame.Q", "b": "two.O", "direction": 0}
    tree["joints"]["mesh"]["type"] = "rack"
    tree["drivers"]["d"]["to"] = 60
    tree["checks"] = {"gap": {"measure": "clearance", "parts": ["one", "two"], "at_least": 0}}
    found = analyse(read_document(tree))
    assert found.gears["mesh"].mesh.backlash == pytest.approx(0, abs=1e-12)
    assert found.verdicts["gap"].passed and found.approaches[0].distance < 1e-4
    column = found.motion.system.coordinates.index("b")
    assert (found.motion.extremes.high - found.motion.extremes.low)[column] == pytest.approx(18 * math.pi / 3)


def test_teeth_are_certified_over_a_turn():
    tree = train({"module": 2, "teeth": 24}, {"module": 2, "teeth": 36}, (60, 0))
    tree["checks"] = {"gap": {"measure": "clearance", "parts": ["one", "two"], "at_least": 0}}
    found = analyse(read_document(tree))
    assert found.approaches[0].proven and 0 < found.approaches[0].distance < 1e-4 and found.verdicts["gap"].passed


@pytest.mark.parametrize(("teeth", "place", "says"), [
    ({"teeth": 0}, "teeth", "from 4 to 500"), ({"teeth": 3}, "teeth", "from 4 to 500"),
    ({"teeth": 12.5}, "teeth", "whole number"), ({"teeth": 1e6}, "teeth", "from 4 to 500"),
    ({"module": 0}, "module", "greater than zero"), ({"pressure_angle": "60 deg"}, "pressure_angle", "20° as a rule"),
    ({"teeth": 10, "shift": 1.5}, "shift", "pointed; with a shift up to"),
    ({"teeth": 20, "internal": True}, "teeth", "base circle"),
    ({"teeth": 60, "internal": True, "rim": 50}, "rim", "roots lie at 62.5"),
    ({"backlash": -1}, "backlash", "is wanted"),
])  # fmt: skip
def test_what_is_wrong_with_teeth_is_told_where_it_is(teeth, place, says):
    tree = {"anakinema": 1, "parts": {"p": {"shapes": [
        {"kind": "gear", "center": [0, 0], "module": 2, "teeth": 20, **teeth}]}}}  # fmt: skip
    with pytest.raises(DocumentError, match=says) as caught:
        read_document(tree)
    assert str(caught.value.faults[0]).startswith(f"parts.p.shapes.0.{place}:")


def test_what_a_joint_says_against_its_teeth_is_told_and_what_suits_is_advised():
    plain = {"module": 2, "teeth": 20}
    for one, two, more, says in (
        (plain, {"module": 2.5, "teeth": 20}, {}, "wheels that mesh have one module"),
        (plain, {**plain, "pressure_angle": "25 deg"}, {}, "give both the same"),
        (plain, plain, {"teeth": [20, 30]}, "their teeth make it -1"),
    ):
        with pytest.raises(DocumentError, match=says) as caught:
            read_document(train(one, two, (40, 0), **more))
        assert str(caught.value.faults[0]).startswith("joints.mesh:")
    texts = [one.text for one in analyse(read_document(train(plain, plain, (39, 0)))).advice]
    assert any("cut into each other" in text and "fit that distance" in text for text in texts)
    document = read_document(train(plain, {**plain, "teeth": 9}, (29, 0)))
    (advice,) = (one for one in analyse(document).advice if "are undercut; with a shift of" in one.text)
    assert not changed(document, *advice.mend).parts["two"].shapes[0].profile.undercut


def test_a_planet_train_of_teeth_turns_as_willis_says_and_tells_planets_that_do_not_fit():
    """(n_sun − n_carrier) / (n_ring − n_carrier) = −z_ring / z_sun; here the ring stands: a ratio of 1 + 48/24."""
    from gears import planets

    found = analyse(read_document(planets(24, 12, 48, 3)))
    motion = found.motion
    turned = motion.coordinates(np.array([0.0, motion.path.t1]))
    ways = {name: turned[1, k] - turned[0, k] for k, name in enumerate(motion.system.coordinates.ids)}
    assert ways["sun"] / ways["arm"] == pytest.approx(1 + 48 / 24)
    assert not any("even places" in one.text for one in found.advice)
    with pytest.raises(DocumentError, match=r"25 \+ 49 teeth are no multiple of 3"):
        analyse(read_document(planets(25, 12, 49, 3)))


@pytest.mark.parametrize(("kind", "teeth"), [("gears", 16), ("rack", 18), ("planets", 18)])
def test_ready_wheels_mesh_without_play_and_never_overlap(kind, teeth):
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, kind, 5 + 3j, 30.0, teeth).changes)
    first = next(iter(made.joints))
    pair = {"gears": ["pinion", "wheel"], "rack": ["pinion", "rack"], "planets": ["planet2", "ring"]}[kind]
    made = changed(made, Set(("drivers", "d"), {"joint": first, "from": 0, "to": 60, "steps": 12}),
                   Set(("checks", "gap"), {"measure": "clearance", "parts": [f"{kind}-{one}" for one in pair],
                                           "at_least": 0}))  # fmt: skip
    found = analyse(made)
    assert found.motion.stop is None and found.motion.mobility.dof == 1 and found.verdicts["gap"].passed
    for one in found.gears.values():
        assert one.mesh.backlash == pytest.approx(0, abs=1e-9) and one.mesh.contact_ratio > 1.3
        assert not one.mesh.interferes
    assert not found.open


@pytest.mark.parametrize("count", [9, 17, 40])
def test_rollers_of_a_chain_sit_in_their_seats(count):
    """Pins a pitch apart on p / (2 sin(π / z)), each roller free of the wheel by the play of its seat."""
    wheel_of = {"kind": "belt-wheel", "center": [0, 0], "pitch": 12.7, "teeth": count, "roller": 8.51}
    part = read_document({"anakinema": 1, "parts": {"p": {"shapes": [wheel_of]}}}).parts["p"]
    edges = part.slabs[0].region.edges
    points = np.concatenate([edges.point(np.full(edges.count, share)) for share in np.linspace(0, 1, 41)])
    far = 12.7 / (2 * math.sin(math.pi / count))
    pins = far * np.exp(1j * math.tau * np.arange(count) / count)
    assert abs(pins[1] - pins[0]) == pytest.approx(12.7)
    play = 0.505 * 8.51 + 0.069 * 8.51 ** (1 / 3) - 8.51 / 2
    gaps = np.abs(points[:, None] - pins[None, :]).min(axis=0) - 8.51 / 2
    assert gaps == pytest.approx(play, abs=1e-4)
    tip = np.abs(points).max()
    assert far < tip <= far + (12.7 * (1 - 1.6 / count) - 8.51) / 2 + 1e-9


def test_belt_wheels_are_told_what_is_wrong():
    for more, says in (({"teeth": 3}, "from 6 to 500"), ({"teeth": 12, "roller": 12}, "fit this pitch"),
                       ({"teeth": 8, "of": "belt"}, "from 10 to 500"), ({"teeth": 20, "of": "rope"}, "is wanted")):
        with pytest.raises(DocumentError, match=says):
            read_document({"anakinema": 1, "parts": {"p": {"shapes": [
                {"kind": "belt-wheel", "center": [0, 0], "pitch": 12.7, **more}]}}})  # fmt: skip
