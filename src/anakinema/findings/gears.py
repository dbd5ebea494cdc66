"""What is to be said of wheels in mesh."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from ..document.changes import Change, Set
from ..document.meshes import Worn, judged_mesh, meshing, uneven_planets
from ..document.model import Document
from ..formatting import shown
from ..geometry.involute import Mesh, sum_of_shifts
from ..kinds import Dimension
from ..kinematics.motion import Motion
from .advice import Advice

LOOSE = 0.25
"""Backlash, in modules, above which wheels stand too far apart to be meant (common practice, no source)."""
FEW_TOGETHER = 1.1
"""Contact ratio below which the next tooth may come too late (common practice, no source)."""


@dataclass(frozen=True)
class GearFinding:
    """Two that mesh, and what is to be known of them; None where they stand too close to mesh at all."""

    one: Worn
    two: Worn
    mesh: Mesh | None


def gear_findings(motion: Motion) -> dict[str, GearFinding]:
    """What is to be said of each gear and rack joint whose parts wear teeth, as they stand at the start of a motion."""
    document, found = motion.document, {}
    toothed = {name: one for name, one in document.active_couplings.items() if one.kind.toothed}
    if not toothed:
        return {}
    q = motion.positions(np.zeros(1))[0]
    parts = {}
    for name, part in document.parts.items():
        x, y, angle = q[motion.system.body(name)].tolist()
        parts[name] = replace(part, pose=(x, y, angle))
    for name, coupling in toothed.items():
        pair = meshing(parts, document.joints, coupling)
        if pair is not None:
            try:
                found[name] = GearFinding(*pair, judged_mesh(*pair))
            except ValueError:
                found[name] = GearFinding(*pair, None)
    return found


def gear_advice(document: Document, findings: Mapping[str, GearFinding]) -> list[Advice]:
    """What of the wheels calls for a hand."""
    found = []
    for name, one in findings.items():
        for text in _told(document, name, one):
            found.append(Advice(text, f"joints.{name}"))
        for worn in (one.one, one.two):
            if worn.teeth.undercut:
                least = math.ceil(worn.teeth.least_shift * 1000) / 1000
                text = f"The teeth of '{worn.part}' are undercut; with a shift of {least:.3f} or more they are not"
                found.append(Advice(text, f"parts.{worn.part}", None, _shifted(document, worn, least)))
    found += [Advice(text, f"parts.{part}") for part, text in uneven_planets(document)]
    return found


def _told(document: Document, name: str, found: GearFinding) -> list[str]:
    units, mesh = document.units, found.mesh

    def long(value: float) -> str:
        return shown(value, Dimension.LENGTH, units)

    if mesh is None:
        return [f"'{found.one.part}' and '{found.two.part}' stand too close to mesh at '{name}': move them apart"]
    told = []
    module = found.one.teeth.module
    if mesh.backlash < -1e-6 * module:
        told.append(f"The teeth at '{name}' cut into each other by {long(-mesh.backlash)}: the axes are "
                    f"{long(mesh.distance)} apart, {long(mesh.tight)} leave none{_shifts(found, mesh)}")  # fmt: skip
    elif mesh.backlash > LOOSE * module:
        told.append(f"The wheels at '{name}' have {long(mesh.backlash)} of backlash: the axes are "
                    f"{long(mesh.distance)} apart, {long(mesh.tight)} leave none{_shifts(found, mesh)}")  # fmt: skip
    if mesh.contact_ratio < FEW_TOGETHER:
        told.append(f"The contact ratio at '{name}' is {mesh.contact_ratio:.3f}: the next tooth may come too late; "
                    "take more teeth, or larger addenda")  # fmt: skip
    if mesh.interferes:
        told.append(f"Tips at '{name}' meet flanks below where these are involutes; take smaller addenda or more teeth")
    return told


def _shifted(document: Document, worn: Worn, shift: float) -> tuple[Change, ...]:
    """Gives a wheel another shift."""
    part = document.parts[worn.part]
    if part.of or worn.is_rack:
        return ()
    number = part.shapes.index(worn.shape)
    return (Set((*document.home("parts", worn.part), "shapes", number, "shift"), shift),)


def _shifts(found: GearFinding, mesh: Mesh) -> str:
    """The sum of shifts that suits the distance, in words."""
    if found.one.is_rack or found.two.is_rack:
        return ""
    first, second = (found.two, found.one) if found.one.teeth.internal else (found.one, found.two)
    try:
        total = sum_of_shifts(first.teeth, second.teeth, mesh.distance)
    except ValueError:
        return ""
    what = "shifts that differ by" if second.teeth.internal else "shifts of together"
    return f"; {what} {total:.4f} fit that distance"
