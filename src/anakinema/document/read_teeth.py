"""Reading gear and rack joints whose parts wear teeth: ratio and mesh come from these."""

import math
from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from ..joints import CouplingType
from .meshes import Worn, contradictions, meshing, ratio_of
from .model import Coupling, Joint, Part, PointRef
from .read_context import ReadContext
from .read_couplings import read_coupling


def read_mesh(
    context: ReadContext, key: str, kind: CouplingType, item: Mapping[str, Any], place: str
) -> Coupling:
    """What ties two joints; by the teeth that mesh, where parts wear some."""
    names = [item.get(side) for side in "ab"]
    if not all(isinstance(name, str) for name in names):
        return read_coupling(context, key, kind, item, place)
    bare = Coupling(key, kind.name, str(names[0]), str(names[1]), math.nan, MappingProxyType({}))
    lost = any(math.isnan(value) for part in _carried(context, bare) for value in part.pose)
    lost = lost or not all(name in context.joints and sound(context, context.joints[name]) for name in (bare.a, bare.b))
    pair = None if lost else meshing(context.parts, context.joints, bare)
    if pair is None:
        return read_coupling(context, key, kind, item, place)
    ratio = ratio_of(*pair, context.joints[bare.b], context.parts)
    said = read_coupling(context, key, kind, {**_from_teeth(pair, ratio), **item}, place)
    for text in contradictions(*pair):
        context.fault(place, text)
    if not math.isnan(said.ratio) and abs(said.ratio - ratio) > 1e-9 * abs(ratio):
        what = "their teeth" if not pair[1].is_rack else f"the teeth of '{pair[0].part}'"
        context.fault(place, f"says a ratio of {said.ratio:.6g}, {what} make it {ratio:.6g}; leave it out, for the "
                          "teeth say it")  # fmt: skip
    return replace(said, ratio=ratio)


def sound(context: ReadContext, joint: Joint) -> bool:
    """Whether both sides of a joint are there, and its values are numbers."""
    sides = all(ref.part in context.parts and _has(context, ref) for ref in (joint.a, joint.b))
    return bool(joint.type) and sides and not any(map(math.isnan, joint.values.values()))


def _has(context: ReadContext, ref: PointRef) -> bool:
    part = context.parts[ref.part]
    return ref.point in part.points or ref.point in part.edges


def _carried(context: ReadContext, bare: Coupling) -> list[Part]:
    """The parts of both joints, as far as they are known."""
    refs = [ref for name in (bare.a, bare.b) if name in context.joints
            for ref in (context.joints[name].a, context.joints[name].b)]  # fmt: skip
    return [context.parts[ref.part] for ref in refs if ref.part in context.parts]


def _from_teeth(pair: tuple[Worn, Worn], ratio: float) -> dict[str, Any]:
    """What the joint would say, as far as the teeth tell it."""
    if pair[1].is_rack:
        return {"radius": ratio}
    inside = "internal" if pair[0].teeth.internal or pair[1].teeth.internal else "external"
    return {"teeth": [pair[0].teeth.count, pair[1].teeth.count], "mesh": inside}
