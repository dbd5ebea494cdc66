"""Cams against closed forms, general geometry, and what is known of them."""

import math
from itertools import pairwise

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from anakinema.cams.geometry import CamGeometry
from anakinema.cams.judgement import judged, largest_roller, least_base
from anakinema.cams.profile import profile
from anakinema.document import read_document
from anakinema.errors import DocumentError
from cams import cam, geometry

LAWS = ("parabolic", "harmonic", "cycloidal", "modified-trapezoid", "modified-sine", "345", "4567")
TURN = np.linspace(0, 2 * math.pi, 1441)[:-1] + 0.001


def lift(found: CamGeometry):
    return found.law.lift(TURN)[:3]


@pytest.mark.parametrize("offset", [0.0, 7.0, -4.0])
def test_offset_roller(offset):
    """tan α = (s′ − e) / (s + d), and the radius of curvature of the pitch curve in polar form (any book on cams, as
    by F. Y. Chen or R. L. Norton; from memory)."""
    found = geometry(cam(offset=offset, at=36))
    course = found.course(TURN)
    s, s1, s2 = lift(found)
    up = 36 + s
    assert np.tan(course.pressure) == pytest.approx((s1 - offset) / up, abs=1e-12)
    x, y = up, s1 - offset  # of the velocity in the axes of the cam, turned back
    radius = (x**2 + y**2) ** 1.5 / (x**2 + y * (2 * s1 - offset) - x * s2)
    assert 1 / course.curvature == pytest.approx(radius - 6, rel=1e-9)
    if offset == 0.0:
        polar = (up**2 + s1**2) ** 1.5 / (up**2 + 2 * s1**2 - up * s2)
        assert radius == pytest.approx(polar, rel=1e-12)


def test_flat_face():
    """ρ = base + s + s″, contact s′ off the middle, no pressure angle (the same books; from memory)."""
    found = geometry(cam({"kind": "flat", "direction": 0, "width": 40}, at=40))
    course = found.course(TURN)
    s, s1, s2 = lift(found)
    assert 1 / course.curvature == pytest.approx(40 + s + s2, rel=1e-9)
    assert np.abs(course.along) == pytest.approx(np.abs(s1), abs=1e-9)
    assert course.pressure == pytest.approx(0.0, abs=1e-12)
    assert judged(found).face_width == pytest.approx(2 * 12 * 2 / (math.pi / 2), rel=1e-6)  # peak of cycloidal: 2 h/β
    assert np.abs(course.sliding) == pytest.approx(np.abs(40 + s), rel=1e-9)


def test_swinging_roller_by_its_own_motion():
    """The common normal passes the point where cam and follower have one velocity (Kennedy's three centres)."""
    found = geometry(cam(swings=True, base=24, segments=[
        {"over": "150 deg", "to": "-18 deg", "law": "345"}, {"over": "210 deg", "to": 0, "law": "4567"}]))  # fmt: skip
    course = found.course(TURN)
    rate = found.guide.sense * course.lift[1]
    pole = 60 * rate / (rate - 1)  # on the line of the centres, x from the shaft
    turn = np.exp(1j * TURN)
    touch, normal = course.profile * turn, course.normal * turn
    off = ((pole - touch) * (1j * normal).conj()).real
    assert off == pytest.approx(0.0, abs=1e-9)
    assert abs(judged(found).base - 24) < 1e-9


def test_curved_face_is_a_roller_that_does_not_turn():
    arc, roller = (geometry(cam({"kind": kind, "radius": 25}, at=60)) for kind in ("arc", "roller"))
    one, two = arc.course(TURN), roller.course(TURN)
    assert one.profile == pytest.approx(two.profile)
    assert two.sliding == pytest.approx(0.0) and np.abs(one.sliding).min() > 20


@pytest.mark.parametrize("kind", ["roller", "flat", "arc"])
def test_an_eccentric_moves_a_foot_in_harmonic_motion(kind):
    """A disc on an eccentric axis under a flat face: s = e (1 − cos θ), from first principles. Of a roller the motion
    is that of a slider-crank whose rod is both radii; the circle is found back from either."""
    e, radius, r = 5.0, 30.0, 8.0
    if kind == "flat":
        segments = [{"over": "180 deg", "to": to, "law": "harmonic"} for to in (2 * e, 0)]
        follower = {"kind": "flat", "direction": 0}
        tree = cam(follower, segments, at=radius - e)
    else:
        x = np.linspace(0, 360, 181)
        y = -e * np.cos(np.radians(x)) + np.sqrt((radius + r) ** 2 - (e * np.sin(np.radians(x))) ** 2)
        tree = cam({"kind": kind, "radius": r}, at=float(y[0]))
        tree["programs"]["rise"] = {"points": [[f"{a} deg", b] for a, b in zip(x, (y - y[0]).tolist(), strict=True)]}
    made = profile(geometry(tree))
    points = np.array([made.start, *(to for to, _, _ in made.turns)])
    center = 1j * -e if kind != "flat" else -1j * e
    assert np.abs(points - center) == pytest.approx(radius, abs=5e-5 if kind == "flat" else 2e-4)


def test_a_cam_of_constant_width():
    """Where rise and return mirror each other, two flat faces back to back touch it at once: h(θ) + h(θ + π) stays."""
    segments = [{"over": "180 deg", "to": "9 mm", "law": "345"}, {"over": "180 deg", "to": 0, "law": "345"}]
    made = profile(geometry(cam({"kind": "flat", "direction": 0}, segments, at=40)))
    points = np.array([complex(*z) for z in outline(made).exterior.coords])
    ways = np.exp(1j * np.linspace(0, math.pi, 60))
    high, low = ((points[None, :] * w[:, None].conj()).real.max(axis=1) for w in (ways, -ways))
    assert high + low == pytest.approx(89.0, abs=2e-4)


def outline(made):
    """A profile as a polygon so fine that it misses the arcs by less than 2e-7 of its size."""
    points, here = [], made.start
    for to, center, ccw in made.turns:
        if center is not None:
            a, b = (here - center), (to - center)
            by = np.angle(b / a)
            by = by if (by > 0) == ccw or abs(by) < 1e-12 else by + (2 * np.pi if ccw else -2 * np.pi)
            points += (center + a * np.exp(1j * np.linspace(0, by, 2 + int(abs(by) / 0.001)))).tolist()[:-1]
        else:
            points.append(here)
        here = to
    return shapely.Polygon([(z.real, z.imag) for z in points])


@pytest.mark.parametrize("swings", [False, True])
def test_the_envelope_against_buffers(swings):
    """The roller's swept region, by a general geometry library, is what the profile leaves."""
    found = geometry(cam(swings=swings, **({"base": 26, "segments": [
        {"over": "120 deg", "to": "-15 deg", "law": "cycloidal"}, {"over": "240 deg", "to": 0, "law": "345"}]}
        if swings else {})))  # fmt: skip
    a = np.linspace(*found.range, 20001)
    pitch = found.course(a).pitch
    pitch_ring = shapely.Polygon(np.stack((pitch.real, pitch.imag), axis=1))
    left = pitch_ring.buffer(-6, quad_segs=256)
    made = outline(profile(found))
    assert made.symmetric_difference(left).area < 2e-5 * left.area
    assert shapely.hausdorff_distance(made.exterior, left.exterior) < 1.5e-3


def exact_gap(made, z):
    """The least distance of a place from the lines and arcs of a profile."""
    best, here = math.inf, made.start
    for to, center, ccw in made.turns:
        best = min(best, abs(z - here), abs(z - to))
        if center is None:
            way = to - here
            share = ((z - here) * way.conjugate()).real / max(abs(way) ** 2, 1e-300)
            if 0 < share < 1:
                best = min(best, abs(((z - here) * way.conjugate()).imag) / abs(way))
        elif z != center:
            turned = np.angle((z - center) / (here - center)) * (1 if ccw else -1) % (2 * math.pi)
            if turned <= np.angle((to - center) / (here - center)) * (1 if ccw else -1) % (2 * math.pi):
                best = min(best, abs(abs(z - center) - abs(here - center)))
        here = to
    return best


segments = st.lists(
    st.tuples(st.integers(25, 80), st.floats(0.0, 14.0), st.sampled_from(LAWS)), min_size=1, max_size=4)


@settings(max_examples=40, deadline=None)
@given(segments, st.sampled_from(["roller", "flat", "arc", "knife"]), st.booleans(), st.floats(22, 60),
       st.floats(-9, 9))  # fmt: skip
def test_the_worn_profile_touches_its_follower_all_along_or_tells_an_undercut(parts, kind, swings, base, offset):
    rise = [{"over": f"{over} deg", "to": f"{-to if swings else to} {'deg' if swings else 'mm'}", "law": law}
            for over, to, law in parts]  # fmt: skip
    rise.append({"over": "40 deg", "to": 0, "law": "cycloidal"})
    follower = {"kind": kind, **({"radius": 6} if kind == "roller" else {"radius": 30} if kind == "arc" else {}),
                **({"direction": 90 if swings else 0} if kind == "flat" else {})}  # fmt: skip
    try:
        found = geometry(cam(follower, rise, offset=offset, swings=swings, base=base))
    except DocumentError as error:
        assert "placed" in str(error) or "pivot" in str(error)
        return
    told = judged(found).undercut
    if told:
        return
    made = profile(found)
    size = max(abs(to) for to, _, _ in made.turns)
    polygon = outline(made)
    assert polygon.is_valid
    for a in np.linspace(*found.range, 25)[:-1].tolist():
        course = found.course(np.array([a]))
        if kind != "flat":
            gap = exact_gap(made, complex(course.pitch[0])) - found.follower.radius
        else:
            m = complex(course.normal[0])
            face = (complex(course.pitch[0]) * m.conjugate()).real
            gap = face - max((complex(*p) * m.conjugate()).real for p in polygon.exterior.coords)
        assert -3e-7 * size < gap < 1.3e-6 * size


def test_smallest_cams_keep_what_they_are_to_keep():
    """The least base circle and largest roller: a hair smaller, and a limit is broken."""
    from dataclasses import replace

    found = geometry(cam(at=60))
    limit = math.radians(25)
    least = least_base(found, limit)
    assert judged(least).pressure.value == pytest.approx(limit, rel=2e-4)
    assert judged(least).pressure.value <= limit
    assert judged(replace(least, low=least.low - 0.05)).pressure.value > limit
    roller = largest_roller(geometry(cam(at=30)))
    wide, narrow = (geometry(cam({"kind": "roller", "radius": roller * by}, at=30)) for by in (1.01, 0.99))
    assert judged(wide).undercut and not judged(narrow).undercut


def test_the_motion_is_the_law_whatever_the_follower():
    """Exact to 1e-8 of the lift: places, rates and accelerations, and the greatest of each at the published factors
    (Cv, Ca of the standard laws: H. A. Rothbart, "Cams", and R. L. Norton, from memory)."""
    from anakinema.findings import analyse

    factors = {"cycloidal": (2.0, 2 * math.pi), "modified-sine": (1.7596, 5.528), "modified-trapezoid": (2.0, 4.888),
               "harmonic": (math.pi / 2, math.pi**2 / 2), "345": (1.875, 5.7735), "4567": (2.1875, 7.5132),
               "parabolic": (2.0, 4.0)}  # fmt: skip
    for law, (fast, hard) in factors.items():
        tree = cam(segments=[{"over": "90 deg", "to": "12 mm", "law": law}, {"over": "270 deg", "to": 0, "law": law}])
        tree["checks"] = {name: {"measure": name, "joint": "lift", "at_most": 1e9}
                          for name in ("velocity", "acceleration")}  # fmt: skip
        document = read_document(tree)
        found = analyse(document)
        motion = found.motion
        t = np.linspace(0, motion.path.t1, 333)
        rate = 2 * math.pi / motion.path.t1
        wanted = document.couplings["ride"].law.lift(rate * t)
        column = motion.system.coordinates.index("lift")
        assert motion.coordinates(t)[:, column] == pytest.approx(30 + wanted[0], abs=1e-8)
        rates = motion.at(t).rates[:, column]
        assert rates[1:-1] == pytest.approx(rate * wanted[1][1:-1], abs=1e-6)
        beta = math.pi / 2
        assert found.verdicts["velocity"].value == pytest.approx(fast * 12 / beta * rate, rel=1e-4)
        assert found.verdicts["acceleration"].value == pytest.approx(hard * 12 / beta**2 * rate**2, rel=1e-4)


def test_steps_of_a_profile_meet(tmp_path):
    made = profile(geometry(cam()))
    here = made.start
    for (to, center, _), _ in pairwise([*made.turns, made.turns[0]]):
        if center is not None:
            assert abs(abs(here - center) - abs(to - center)) < 1e-9 * abs(to)
        here = to
    assert here == pytest.approx(made.start, abs=1e-12)
