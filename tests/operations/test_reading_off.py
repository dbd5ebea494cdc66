"""Cams read off motions: of a shape by contact, of a linkage, smoothed within a tolerance."""

import numpy as np
import pytest

from anakinema.document import Set, changed, read_document
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.kinematics.simulation import simulate
from anakinema.operations import cam_of_motion
from anakinema.operations.ready import make_ready


def eccentric(to=360):
    nothing = read_document({"anakinema": 1})
    made = changed(nothing, *make_ready(nothing, "eccentric", 0j, 20.0).changes)
    return changed(made, Set(("drivers", "d"), {"joint": "eccentric-turn", "from": 0, "to": to, "steps": 24}))


def lift(motion, t):
    column = motion.system.coordinates.index("eccentric-lift")
    return motion.coordinates(t)[:, column]


@pytest.mark.parametrize("to", [360, -400])
def test_an_eccentric_by_contact_becomes_an_exact_cam_whose_profile_is_its_circle(to):
    document = eccentric(to)
    before = simulate(document)
    found = cam_of_motion(before, "eccentric-turn", "eccentric-lift", 1e-4)
    assert found.error <= 1e-4 and found.points <= 96
    made = changed(document, *found.made.changes)
    assert all(one.suspended for one in made.contacts.values())
    coupling = next(iter(made.couplings.values()))
    assert coupling.follower.kind == "flat"
    after = analyse(made).motion
    t = np.linspace(0, before.path.t1, 500)
    assert lift(after, t) == pytest.approx(lift(before, t), abs=1.1e-4)
    assert after.mobility.dof == 1
    points = coupling.cam.course(np.linspace(0, 2 * np.pi, 400)).profile
    disc = made.parts["eccentric-disc"].shapes[0]
    assert np.abs(points - complex(*disc.center)) == pytest.approx(disc.diameter / 2, abs=2e-2)


def test_the_coarser_the_fewer_points_and_what_can_not_be_read_is_told():
    document = eccentric()
    motion = simulate(document)
    fine, coarse = (cam_of_motion(motion, "eccentric-turn", "eccentric-lift", by) for by in (1e-5, 0.05))
    assert coarse.points < fine.points and coarse.error > fine.error
    with pytest.raises(DocumentError, match="drive it by 360°"):
        cam_of_motion(simulate(eccentric(200)), "eccentric-turn", "eccentric-lift", 1e-3)
    with pytest.raises(DocumentError, match="slides; the lift is read off over a turn"):
        cam_of_motion(motion, "eccentric-lift", "eccentric-turn", 1e-3)
    with pytest.raises(DocumentError, match="the nearest misses it by"):
        cam_of_motion(motion, "eccentric-turn", "eccentric-lift", 1e-14)
