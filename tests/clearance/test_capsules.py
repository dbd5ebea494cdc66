"""Capsules about outlines, and the bounds that they give along a motion: against places on the outlines themselves."""

import numpy as np
import pytest
import shapely

from anakinema.cancellation import CancellationToken
from anakinema.clearance.approach import Watch
from anakinema.clearance.capsules import capsule_about
from anakinema.clearance.kernels.series import capsules_apart, least_apart
from anakinema.clearance.pairs import pairs_to_watch
from anakinema.document import read_document
from anakinema.formats import project
from anakinema.kinematics.simulation import simulate
from mechanisms import document
from outlines import random_pair


def regions(*shapes):
    tree = document({"frame": {"fixed": True, "points": {"O": [0, 0]}, "shapes": list(shapes)}}, {})
    return read_document(tree).parts["frame"].slabs[0].region


def off_axis(capsule, z):
    """The distances of places from a capsule's axis, by shapely."""
    axis = shapely.LineString([(end.real, end.imag) for end in capsule.ends])
    return shapely.distance(axis, shapely.points(z.real, z.imag))


@pytest.mark.parametrize(("start", "end", "width"), [((3, -2), (40, 17), 6.0), ((-5, 0), (5, 0), 30.0)])
def test_the_capsule_of_a_bar_is_the_bar(start, end, width):
    capsule = capsule_about(regions({"kind": "bar", "through": [list(start), list(end)], "width": width}).edges)
    assert capsule.girth == pytest.approx(width / 2)
    found = sorted((one.real, one.imag) for one in capsule.ends)
    assert np.allclose(found, sorted([start, end]))


def test_the_capsule_of_a_disc_is_the_disc():
    capsule = capsule_about(regions({"kind": "disc", "center": [7, 3], "diameter": 9}).edges)
    assert capsule.girth == pytest.approx(4.5)
    assert np.allclose(capsule.ends, 7 + 3j)


def test_capsules_hold_random_outlines():
    for seed in range(300):
        for part in read_document(random_pair(seed)).parts.values():
            for slab in part.slabs:
                edges = slab.region.edges
                capsule = capsule_about(edges)
                for share in np.linspace(0.0, 1.0, 23):
                    assert off_axis(capsule, edges.point(np.full(edges.count, share))).max() < capsule.girth + 1e-9


def test_distances_of_capsules_are_those_of_a_geometry_library():
    chance = np.random.default_rng(5)
    ends = chance.normal(size=(2, 2000, 2, 2)) * 10
    ends[:, :300, 1] = ends[:, :300, 0]  # discs
    ends[1, 300:600] = ends[0, 300:600] + [3.0, 1.0]  # parallel
    girths = chance.uniform(0, 3, size=(2, 2000))
    found, least = np.empty(2000), np.empty(2)
    middles = np.ascontiguousarray(ends[..., 0] + 1j * ends[..., 1])
    capsules_apart(middles, girths, 0, 1, found)
    apart = shapely.distance(shapely.linestrings(ends[0]), shapely.linestrings(ends[1])) - girths.sum(axis=0)
    assert np.abs(found - apart).max() < 1e-9
    least_apart(middles, girths, np.array([(0, 1), (1, 0)]), np.array([2000, 400]), least)
    assert np.abs(least - [apart.min(), apart[:400].min()]).max() < 1e-9


@pytest.mark.parametrize("name", ["sewing-head", "folder-drive"])
def test_bounds_of_stretches_are_below_all_distances_in_them(name):
    motion = simulate(project.example(name)[0])
    pairs = pairs_to_watch(motion.document)
    watch = Watch(motion, pairs, CancellationToken())
    times = watch.track.times
    for k in range(len(pairs)):
        for share in (0.0, 0.37, 1.0):
            found = watch.signed(k, times[:, 0] + share * times[:, 1] * times[:, 2])
            assert (watch.low(k) <= np.maximum(found, 0.0) + 1e-9).all()
