"""Which teeth mesh at a gear or rack joint: those that its two parts wear about the joints' own points, and how far the
parts stand from where these fit into each other."""

import cmath
import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

from ..geometry.involute import Mesh, Teeth, mesh, mesh_with_rack
from ..geometry.worn import GearTeeth, RackTeeth, Toothed
from .model import Coupling, Document, Joint, Part, PointRef

NEAR = 1e-6
"""How far a wheel's centre may lie off its joint's point, in modules."""
BIAS = 1e-6
"""In pitches: below what counts as half of one."""


@dataclass(frozen=True)
class Worn:
    """Teeth that a part wears, where the part is placed: the axis (of a rack where its pitch line begins), and the
    angle in the plane at which the middle of a tooth lies (of a rack that of its pitch line)."""

    part: str
    shape: Toothed
    teeth: Teeth
    place: complex
    angle: float
    own: bool
    """Whether the part is the second of its joint, so that it turns with the coordinate."""

    @property
    def is_rack(self) -> bool:
        """Whether they stand along a line."""
        return isinstance(self.shape, RackTeeth)


def meshing(
    parts: Mapping[str, Part], joints: Mapping[str, Joint], coupling: Coupling
) -> tuple[Worn, Worn] | None:
    """The teeth that mesh at a coupling, in its order; of parts with several those that share depth, and a module."""
    if not coupling.kind.toothed or coupling.a not in joints or coupling.b not in joints:
        return None
    ones, twos = (list(_worn(parts, joints[name])) for name in (coupling.a, coupling.b))
    pairs = [(one, two) for one in ones for two in twos if one.part != two.part and not (one.is_rack and two.is_rack)]
    together = [pair for pair in pairs if _share_depth(parts, *pair)] or pairs
    same = [pair for pair in together if pair[0].teeth.module == pair[1].teeth.module] or together
    return same[0] if same else None


def _worn(parts: Mapping[str, Part], joint: Joint) -> Iterator[Worn]:
    for ref, own in ((joint.b, True), (joint.a, False)):
        part = parts.get(ref.part)
        if part is None or (not own and part.fixed and any(_toothed(parts.get(joint.b.part)))):
            continue
        x, y, angle = part.pose
        turn = cmath.rect(1.0, angle)
        for shape in _toothed(part):
            if isinstance(shape, GearTeeth):
                off = abs(complex(*shape.center) - _point(part, ref))
                if joint.kind.pin and off <= NEAR * shape.module:
                    place = complex(x, y) + turn * complex(*shape.center)
                    yield Worn(part.id, shape, shape.profile, place, angle + shape.phase, own)
            elif isinstance(shape, RackTeeth) and joint.kind.straight:
                place = complex(x, y) + turn * complex(*shape.start)
                yield Worn(part.id, shape, shape.profile, place, angle + shape.direction, own)


def _toothed(part: Part | None) -> list[Toothed]:
    if part is None:
        return []
    return [shape for shape in part.shapes if isinstance(shape, Toothed) and not shape.cut and shape.sound]


def _point(part: Part, ref: PointRef) -> complex:
    return complex(*part.place(ref.point))


def _share_depth(parts: Mapping[str, Part], one: Worn, two: Worn) -> bool:
    a, b = (worn.shape.depth or parts[worn.part].depth for worn in (one, two))
    return a[0] < b[1] and b[0] < a[1]


def into_mesh(document: Document) -> dict[str, float]:
    """For each coupling whose teeth mesh by how much b − ratio · a is to grow from the rough poses for teeth to stand
    in spaces. Wheels are turned one after the other, each by half a pitch at most, so that around a loop, as of
    planets, all ask for the same."""
    turned = {name: 0.0 for name, part in document.parts.items() if part.fixed}
    found = {}
    for name, coupling in document.active_couplings.items():
        pair = meshing(document.parts, document.joints, coupling)
        if pair is None:
            continue
        guide = document.joints[coupling.b]
        one, two = (replace(worn, angle=worn.angle + (0.0 if worn.is_rack else turned.get(worn.part, 0.0)))
                    for worn in pair)  # fmt: skip
        ratio = coupling.ratio
        off = out_of_mesh(one, two, guide, document.parts)
        senses = [1.0 if worn.own else -1.0 for worn in pair]
        if two.part not in turned and not two.is_rack and one.part in turned:
            turned[two.part], off = senses[1] * off, 0.0
        elif one.part not in turned and two.part in turned:
            turned[one.part], off = -senses[0] * off / ratio, 0.0
        elif one.part not in turned:
            turned[one.part] = 0.0
            if not two.is_rack:
                turned[two.part], off = senses[1] * off, 0.0
        turns_a, turns_b = (0.0 if worn.is_rack else sense * turned.get(worn.part, 0.0)
                            for sense, worn in zip(senses, pair, strict=True))  # fmt: skip
        found[name] = turns_b - ratio * turns_a + off
    return found


def contradictions(one: Worn, two: Worn) -> Iterator[str]:
    """Why two sets of teeth can't mesh, with what would mend it."""
    a, b = one.teeth, two.teeth
    if abs(a.module - b.module) > 1e-9 * a.module:
        yield (f"'{one.part}' has module {a.module:g}, '{two.part}' {b.module:g}; wheels that mesh have one module")
    if abs(a.pressure - b.pressure) > 1e-9:
        angles = [f"{math.degrees(each.pressure):g}°" for each in (a, b)]
        yield f"'{one.part}' has a pressure angle of {angles[0]}, '{two.part}' of {angles[1]}; give both the same"
    if a.internal and b.internal:
        yield f"'{one.part}' and '{two.part}' are both internal wheels; one of them must be external"
    elif (a.internal or b.internal) and not (one.is_rack or two.is_rack):
        inner, ring = (b, a) if a.internal else (a, b)
        if ring.count <= inner.count:
            yield f"a wheel of {inner.count} teeth does not fit into one of {ring.count}"


def judged_mesh(one: Worn, two: Worn) -> Mesh:
    """What is to be known of the two as they are placed. Raises ValueError where they are too close to mesh at all."""
    if one.is_rack or two.is_rack:
        wheel, rack = (two, one) if one.is_rack else (one, two)
        return mesh_with_rack(wheel.teeth, rack.teeth, abs(_from_line(wheel, rack)))
    first, second = (two, one) if one.teeth.internal else (one, two)
    return mesh(first.teeth, second.teeth, abs(second.place - first.place))


def _from_line(wheel: Worn, rack: Worn) -> float:
    """How far a wheel's axis lies to the left of a rack's pitch line."""
    return ((wheel.place - rack.place) * cmath.rect(1.0, -rack.angle)).imag


def ratio_of(one: Worn, two: Worn, joint_b: Joint, parts: Mapping[str, Part]) -> float:
    """Δb / Δa of two that mesh, as their joints count."""
    turned = (1.0 if one.own else -1.0) * (1.0 if two.own else -1.0)
    if two.is_rack:
        return one.teeth.pitch_radius * _driven(one, two, joint_b, parts) * (1.0 if one.own else -1.0)
    sign = 1.0 if one.teeth.internal or two.teeth.internal else -1.0
    return sign * turned * one.teeth.count / two.teeth.count


def _driven(wheel: Worn, rack: Worn, slide: Joint, parts: Mapping[str, Part]) -> float:
    """1 where a wheel that turns counter-clockwise moves its rack so that the slide's coordinate grows, else −1."""
    along = cmath.rect(1.0, rack.angle)
    foot = -1j * along * _from_line(wheel, rack)  # from the axis to the line
    way = cmath.rect(1.0, parts[slide.a.part].pose[2] + slide.values["direction"]) * (1.0 if rack.own else -1.0)
    return 1.0 if (1j * foot * way.conjugate()).real >= 0 else -1.0


def out_of_mesh(one: Worn, two: Worn, joint_b: Joint, parts: Mapping[str, Part]) -> float:
    """By how much the second joint's coordinate is to grow, at the rough poses, for a tooth to stand in a space: by
    half a pitch at most."""
    if two.is_rack:
        teeth, along = one.teeth, cmath.rect(1.0, two.angle)
        pitch = math.pi * teeth.module
        foot = -1j * along * _from_line(one, two)
        sense = 1.0 if (1j * foot * along.conjugate()).real >= 0 else -1.0
        at_line = (cmath.phase(foot) - one.angle) / math.tau * teeth.count
        along_rack = ((one.place - two.place) * along.conjugate()).real / pitch - 0.5
        off = _least(at_line - sense * along_rack - 0.5)
        way = cmath.rect(1.0, parts[joint_b.a.part].pose[2] + joint_b.values["direction"]) * (1.0 if two.own else -1.0)
        return -off * pitch * sense * (1.0 if (way * along.conjugate()).real >= 0 else -1.0)
    between = cmath.phase(two.place - one.place)
    if one.teeth.internal:
        line_a = line_b = between
        sign = -1.0
    elif two.teeth.internal:
        line_a = line_b = between + math.pi
        sign = -1.0
    else:
        line_a, line_b, sign = between, between + math.pi, 1.0
    k_a = (line_a - one.angle) / math.tau * one.teeth.count
    k_b = (line_b - two.angle) / math.tau * two.teeth.count
    off = _least(k_b + sign * k_a - 0.5)
    return off * math.tau / two.teeth.count * (1.0 if two.own else -1.0)


def _least(pitches: float) -> float:
    """The same within half a pitch either way; at the half itself always the same way, whatever rounding says."""
    return math.remainder(pitches + BIAS, 1.0) - BIAS


def uneven_planets(document: Document) -> list[tuple[str, str]]:
    """Rings of planet trains whose planets can't be put in at even places: (z_sun + z_ring) / planets must be whole
    (any text on epicyclic trains); the part, and the words."""
    found = []
    by_carrier: dict[str, list[tuple[Worn, Worn]]] = {}
    for coupling in document.active_couplings.values():
        pair = meshing(document.parts, document.joints, coupling)
        if pair is not None and not pair[1].is_rack:
            shared = {document.joints[coupling.a].a.part, document.joints[coupling.b].a.part}
            for carrier in {coupling.carrier} if coupling.carrier else shared:
                by_carrier.setdefault(str(carrier), []).append(pair)
    for carrier, pairs in by_carrier.items():
        wheels = {worn.part: worn for pair in pairs for worn in pair}
        rings = [one for one in wheels.values() if one.teeth.internal]
        around: dict[str, list[Worn]] = {name: [] for name in wheels}
        for one, two in pairs:
            around[one.part].append(two)
            around[two.part].append(one)
        for ring in rings:
            planets = {one.part for one in around[ring.part]}
            suns = [one for one in wheels.values() if one.part not in planets and not one.teeth.internal
                    and {other.part for other in around[one.part]} >= planets and len(planets) > 1]  # fmt: skip
            for sun in suns:
                total, count = sun.teeth.count + ring.teeth.count, len(planets)
                if total % count:
                    text = (f"{count} planets on '{carrier}' can't be put in at even places: {sun.teeth.count} + "
                            f"{ring.teeth.count} teeth are no multiple of {count}")  # fmt: skip
                    found.append((ring.part, text))
    return found
