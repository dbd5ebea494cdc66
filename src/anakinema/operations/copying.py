"""Copies of a part: they follow what they are copies of, wherever they stand."""

import cmath
import copy
from collections.abc import Mapping

from ..document.changes import Change, Place, Set, lookup
from ..document.copies import lineage, said
from ..document.model import Document
from ..document.written import pose_of
from ..errors import DocumentError, Fault
from .building import Made, Pose, free_name, named_point
from .joining import Grab

NEAR = 1e-6
"""How near two places must be to be one, as a share of their distance from the origin."""


def stem(part: str) -> str:
    """A name without the number behind it."""
    return part.rstrip("0123456789") or part


def _pose(document: Document, part: str) -> tuple[complex, float]:
    x, y, angle = document.parts[part].pose
    return complex(x, y), angle


def copy_names(document: Document, part: str, count: int) -> list[str]:
    """Free names for copies of a part."""
    names: list[str] = []
    taken = set(document.tree["parts"])
    number = 2
    while len(names) < count:
        name = f"{stem(part)}{number}"
        if name not in taken:
            names.append(name)
        number += 1
    return names


def copy_mirrored(document: Document, part: str, over: complex) -> Made:
    """A part turned over, as in a mirror along its own x axis that is moved aside by `over`."""
    at, angle = _pose(document, part)
    name = free_name(document.tree["parts"], stem(part))
    entry = {"of": part, "mirror": True, "pose": pose_of(document, at + over, angle)}
    return Made((Set(("parts", name), entry),), ("parts", name))


def make_unique(document: Document, part: str) -> Made:
    """Ends that a copy follows what it is a copy of: it says itself what it took from there. Raises `DocumentError` for
    what is no copy, or is lifted or turned over."""
    *above, own = document.home("parts", part)
    trees = lookup(document.tree, above)
    line, _ = lineage(trees, own)
    place: Place = (*above, own)
    if len(line) == 1:
        raise DocumentError([Fault(f"parts.{part}", "is no copy")])
    if any(trees[each].get(word) for each in line[:-1] for word in ("lift", "mirror")):
        text = "is turned over or lifted; only a copy that is neither can be made a part of its own"
        raise DocumentError([Fault(f"parts.{part}", text)])
    kept = {key: value for key, value in trees[own].items() if key in ("pose", "fixed")}
    return Made((Set(place, {**copy.deepcopy(said(trees, line)), **kept}),), place)


def copy_onto(
    document: Document, part: str, target: Grab, poses: Mapping[str, Pose], start: Mapping[str, Pose] | None = None
) -> Made:
    """A copy of a part that arrives joined: it stands to a feature of another part as the part itself stands to what
    its first joint ties it to. Where another of its joints then meets a point of the part that the original is tied to
    there, it is joined there too. `poses` are where the parts stand now, `start` where they do when the motion starts
    (where it is not said, there). Raises `DocumentError` for a part that is joined to nothing, or to the target's own
    part."""
    joints = [joint for joint in document.joints.values() if part in (joint.a.part, joint.b.part) and not joint.at_end]
    joints = [joint for joint in joints if "/" not in joint.id]
    if not joints:
        text = "is joined to nothing; join it once, then copy it onto other holes"
        raise DocumentError([Fault(f"parts.{part}", text)])
    if target.part == part:
        text = "a copy can't be joined to the part that it copies; click another"
        raise DocumentError([Fault(f"parts.{part}", text)])
    own = document.parts[part].points
    name = copy_names(document, part, 1)[0]
    first = joints[0]
    foot = complex(*own[first.seen_from(part)[0].point])

    def stands(where: Mapping[str, Pose]) -> tuple[complex, float]:
        x, y, angle = where[target.part]
        there, turn = complex(x, y) + target.feature.at * cmath.rect(1.0, angle), where[part][2]
        return there - foot * cmath.rect(1.0, turn), turn

    pose = stands(poses)
    begins = pose_of(document, *stands(start if start is not None else poses))
    changes: list[Change] = [Set(("parts", name), {"of": part, "pose": begins})]
    taken = set(document.tree.get("joints", {}))
    for joint in joints:
        mine, other = joint.seen_from(part)
        at = pose[0] + complex(*own[mine.point]) * cmath.rect(1.0, pose[1])
        if joint is first:
            point, named = named_point(document, target.part, target.feature.at)
            changes += named
            onto = f"{target.part}.{point}"
        else:
            px, py, turned = poses[other.part]
            spots = {
                key: complex(px, py) + complex(*spot) * cmath.rect(1.0, turned)
                for key, spot in document.parts[other.part].points.items()
            }
            met = next((key for key, spot in spots.items() if abs(spot - at) < NEAR * max(abs(at), 1.0)), "")
            if not met:
                continue
            onto = f"{other.part}.{met}"
        key = free_name(taken, stem(joint.id))
        taken.add(key)
        ends = (f"{name}.{mine.point}", onto) if mine is joint.a else (onto, f"{name}.{mine.point}")
        sides = dict(zip("ab", ends, strict=True))
        changes.append(Set(("joints", key), {**copy.deepcopy(document.tree["joints"][joint.id]), **sides}))
    return Made(tuple(changes), ("parts", name))
