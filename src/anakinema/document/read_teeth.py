"""Reading gear and rack joints whose parts wear teeth: ratio and mesh come from these."""

import math
from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from ..joints import COUPLING_TYPES
from .meshes import Worn, contradictions, meshing, ratio_of
from .model import Coupling, Joint, Part, PointRef
from .read_joints import JointFields


class MeshFields(JointFields):
    """Takes from the teeth what a joint does not say, and says where it contradicts them."""

    def coupling(self, key: str, kind_name: str, item: Mapping[str, Any], place: str) -> Coupling:
        """What ties two joints; by the teeth that mesh, where parts wear some."""
        kind = COUPLING_TYPES[kind_name]
        names = [item.get(side) for side in "ab"]
        if not kind.toothed or not all(isinstance(name, str) for name in names):
            return super().coupling(key, kind_name, item, place)
        bare = Coupling(key, kind_name, str(names[0]), str(names[1]), math.nan, MappingProxyType({}))
        lost = any(math.isnan(value) for part in self._carried(bare) for value in part.pose)
        lost = lost or not all(name in self.joints and self._sound(self.joints[name]) for name in (bare.a, bare.b))
        pair = None if lost else meshing(self.parts, self.joints, bare)
        if pair is None:
            return super().coupling(key, kind_name, item, place)
        ratio = ratio_of(*pair, self.joints[bare.b], self.parts)
        said = super().coupling(key, kind_name, {**self._from_teeth(pair, ratio), **item}, place)
        for text in contradictions(*pair):
            self.fault(place, text)
        if not math.isnan(said.ratio) and abs(said.ratio - ratio) > 1e-9 * abs(ratio):
            what = "their teeth" if not pair[1].is_rack else f"the teeth of '{pair[0].part}'"
            self.fault(place, f"says a ratio of {said.ratio:.6g}, {what} make it {ratio:.6g}; leave it out, for the "
                              "teeth say it")  # fmt: skip
        return replace(said, ratio=ratio)

    def _sound(self, joint: Joint) -> bool:
        """Whether both sides of a joint are there, and its values are numbers."""
        sides = all(ref.part in self.parts and self._has(ref) for ref in (joint.a, joint.b))
        return bool(joint.type) and sides and not any(map(math.isnan, joint.values.values()))

    def _has(self, ref: PointRef) -> bool:
        part = self.parts[ref.part]
        return ref.point in part.points or ref.point in part.edges

    def _carried(self, bare: Coupling) -> list[Part]:
        """The parts of both joints, as far as they are known."""
        refs = [ref for name in (bare.a, bare.b) if name in self.joints
                for ref in (self.joints[name].a, self.joints[name].b)]  # fmt: skip
        return [self.parts[ref.part] for ref in refs if ref.part in self.parts]

    @staticmethod
    def _from_teeth(pair: tuple[Worn, Worn], ratio: float) -> dict[str, Any]:
        """What the joint would say, as far as the teeth tell it."""
        if pair[1].is_rack:
            return {"radius": ratio}
        inside = "internal" if pair[0].teeth.internal or pair[1].teeth.internal else "external"
        return {"teeth": [pair[0].teeth.count, pair[1].teeth.count], "mesh": inside}
