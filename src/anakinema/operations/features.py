"""What of a part can be grabbed: its named points, and what its shapes offer. Places that coincide are one feature."""

import math
from dataclasses import replace

from ..document.model import Part
from ..geometry.features import SAME, Feature, FeatureKind


def features(part: Part) -> tuple[Feature, ...]:
    """All features of a part: what shapes offer comes before bare points, and cuts before what they are cut from."""
    named = {name: complex(*at) for name, at in part.points.items()}
    found: list[Feature] = []
    ordered = sorted(enumerate(part.shapes), key=lambda each: not each[1].cut)
    for number, shape in ordered:
        for feature in shape.features():
            if feature.by_line:
                found.append(replace(feature, shape=number))
            elif not any(_one(feature, other) for other in found):
                name = next((name for name, at in named.items() if abs(at - feature.at) < SAME), "")
                found.append(replace(feature, name=name, shape=number))
    taken = {feature.name for feature in found}
    found += [Feature(at, FeatureKind.POINT, name) for name, at in named.items() if name not in taken]
    return tuple(found)


def _one(feature: Feature, other: Feature) -> bool:
    """Whether two features are one: in one place, and not two slots or sides that cross there."""
    ways = feature.direction, other.direction
    if other.by_line:
        return False
    crossed = None not in ways and abs(math.sin(float(ways[0] or 0.0) - float(ways[1] or 0.0))) > SAME
    return abs(feature.at - other.at) < SAME and not crossed
