"""The outline that a part wears for a cam: its profile, the two sides of its groove, or, on a slide, a wedge."""

from ..geometry.contours import Turn
from .coupling import FollowerKind
from .geometry import CamGeometry
from .profile import profile

Ring = tuple[complex, tuple[Turn, ...]]


def rings(
    cam: CamGeometry, groove: bool, width: float, back: float, tolerance: float = 0.0, outward: float = 0.0
) -> tuple[Ring, ...]:
    """The outlines of a cam in its part's axes; with `groove` those of its roller's track, `width` across (0: as the
    roller is). `back` is how thick a wedge is below its lowest place (0: a quarter of its length); `tolerance` by how
    much lines and arcs may miss (0: as fine as parts wear it), `outward` how far out of the cam they lie, as the centre
    of a cutter does. Raises ValueError where no groove can be had."""
    if cam.shaft.slides:
        return (_wedge(cam, back, tolerance, outward),)
    if not groove:
        made = profile(cam, None, tolerance, outward)
        return ((made.start, made.turns),)
    if cam.follower.kind is not FollowerKind.ROLLER:
        raise ValueError("a groove guides a roller; give the cam one, or leave the groove out")
    half = width / 2 or cam.follower.radius
    if half < cam.follower.radius * (1 - 1e-9):
        raise ValueError("the roller is wider than its groove; the groove must be no narrower")
    inner, outer = profile(cam, half), profile(cam, -half)
    return halves((inner.start, inner.turns), (outer.start, outer.turns))


def _wedge(cam: CamGeometry, back: float, tolerance: float, outward: float) -> Ring:
    """The outline of a cam on a slide: its profile, closed by straight lines `back` below its lowest place."""
    made = profile(cam, None, tolerance, outward)
    end = made.turns[-1][0]
    along = (end - made.start) / abs(end - made.start)
    out = along * 1j * cam.side
    heights = [((z - made.start) * out.conjugate()).real for z, _, _ in made.turns]
    down = min(0.0, *heights) - (back or 0.25 * abs(end - made.start))
    far = [made.start + along * ((z - made.start) * along.conjugate()).real + out * down for z in (end, made.start)]
    return made.start, (*made.turns, *((z, None, True) for z in far))


def halves(one: Ring, two: Ring) -> tuple[Ring, ...]:
    """A closed track between two rings as two outlines side by side, for an outline has no hole by itself."""
    (start, inner), (begin, outer) = one, two
    cut, other = len(inner) // 2, len(outer) // 2
    middle = inner[cut - 1][0]
    if len(inner) != len(outer):  # across from the same place
        other = 1 + min(range(len(outer)), key=lambda k: abs(outer[k][0] - middle))
    found = []
    for first, last, near, far in ((start, begin, inner[:cut], outer[:other]),
                                   (middle, outer[other - 1][0], inner[cut:], outer[other:])):  # fmt: skip
        there = far[-1][0]
        back: list[Turn] = []
        places = [last, *(turn[0] for turn in far)]
        for k in range(len(far) - 1, -1, -1):
            _, center, ccw = far[k]
            back.append((places[k], center, not ccw))
        found.append((first, (*near, (there, None, True), *back)))
    return tuple(found)
