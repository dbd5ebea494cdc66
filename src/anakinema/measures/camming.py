"""Measures of a cam: pressure angle and sliding along the motion; and, of the cam itself, its least radius of
curvature, how much of it is undercut, the face that is needed, the speed up to which its follower stays on it, and its
timing against another cam."""

import math
from typing import TYPE_CHECKING

from ..arrays import Array
from ..cams import CamGeometry
from ..cams.judgement import fastest, judged
from ..errors import located
from ..kinds import MM_IN, Dimension, Field, FieldForm
from .base import OverTime, OverWhole, column
from .transmission import LINES

if TYPE_CHECKING:
    from ..document.model import Coupling, Document, Measure
    from ..kinematics.motion import Motion

CAM = Field("cam", form=FieldForm.CAM, required=True, description="the cam joint")


def geometry_of(measure: "Measure", document: "Document") -> CamGeometry:
    """The cam that is measured. Raises `DocumentError` where it has no profile."""
    name = measure.values["cam"]
    coupling = document.couplings[name]
    if coupling.cam is None:
        raise located(f"joints.{name}", f"cam '{name}' has no profile: say its 'follower'")
    if coupling.suspended:
        raise located(f"joints.{name}", f"cam '{name}' is suspended")
    return coupling.cam


def _turned(measure: "Measure", motion: "Motion", t: Array) -> Array:
    shaft = motion.document.couplings[measure.values["cam"]].a
    return motion.coordinates(t)[:, column(motion, shaft)]


class CamPressureAngle(OverTime):
    name, title = "cam_pressure_angle", "Pressure angle of a cam"
    description = "between the common normal and the way of the follower, 0 to 90°"
    fields, dimension = (CAM,), Dimension.ANGLE
    fold = LINES

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return LINES(self.unfolded(measure, motion, t))

    def unfolded(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        return geometry_of(measure, motion.document).course(_turned(measure, motion, t)).pressure


class CamSliding(OverTime):
    name, title = "cam_sliding", "Sliding on a cam"
    description = "how fast the follower slides over the cam; 0 of a roller"
    fields, dimension, first_bound = (CAM,), Dimension.LINEAR_RATE, "both"

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        found = geometry_of(measure, motion.document)
        shaft = motion.document.couplings[measure.values["cam"]].a
        rate = motion.at(t).rates[:, column(motion, shaft)]
        sliding: Array = found.course(_turned(measure, motion, t)).sliding * rate
        return sliding


class CamCurvature(OverWhole):
    name, title = "cam_curvature", "Least radius of a cam's curvature"
    description = "of its profile, where it bulges and where it is hollow"
    fields, first_bound = (CAM,), "at_least"

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        found = judged(geometry_of(measure, motion.document))
        return min(found.convex.value, found.hollow.value), 0.0


class CamUndercut(OverWhole):
    name, title = "cam_undercut", "Undercut of a cam"
    description = "the share of a turn in which no profile moves the follower as its program says"
    fields, dimension = (CAM,), Dimension.NUMBER

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        cam = geometry_of(measure, motion.document)
        low, high = cam.range
        return sum(stop - start for start, stop in judged(cam).undercut) / (high - low), 0.0


class CamFace(OverWhole):
    name, title = "cam_face", "Face that a cam needs"
    description = "how wide a flat face must be, its middle in the follower's point"
    fields = (CAM,)

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        width = judged(geometry_of(measure, motion.document)).face_width
        if width is None:
            raise located(f"joints.{measure.values['cam']}", "its follower has no flat face")
        return width, 0.0


class LeavesCamAt(OverWhole):
    name, title = "leaves_cam_at", "Leaves its cam at"
    description = (
        "the speed of the shaft from which a follower that a spring presses would leave its cam: where it must be "
        "slowed down by more than the spring can; weight and friction left out"
    )
    fields = (
        CAM,
        Field("preload", Dimension.NUMBER, required=True, description="of the spring where the program is 0 (N; N·m of "
              "a follower that swings)"),
        Field("spring", Dimension.NUMBER, description="its rate for each length of lift (N; N·m for each rad)"),
        Field("mass", Dimension.NUMBER, required=True, description="that is moved (kg; kg·m² of one that swings)"),
    )  # fmt: skip
    dimension, first_bound = Dimension.ANGULAR_RATE, "at_least"

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        document, cam = motion.document, geometry_of(measure, motion.document)
        preload, mass = (float(measure.values[key]) for key in ("preload", "mass"))
        if preload <= 0 or mass <= 0:
            raise located(f"joints.{measure.values['cam']}", "preload and mass must be above zero")
        metre = 1.0 if cam.guide.swings else 1000.0 / MM_IN[document.units.length]
        return fastest(cam, preload, float(measure.values.get("spring", 0.0)), mass, metre).value, 0.0


class CamTiming(OverWhole):
    name, title = "cam_timing", "Timing between cams"
    description = (
        "by how much the shaft turns from the end of a segment of one cam to the beginning of a segment of another; "
        "below zero they overlap"
    )
    fields = (
        CAM,
        Field("segment", Dimension.NUMBER, required=True, description="which of its program, from 1"),
        Field("next", form=FieldForm.CAM, required=True, description="the other cam, on the same shaft"),
        Field("next_segment", Dimension.NUMBER, required=True, description="which segment of that, from 1"),
    )
    dimension, first_bound = Dimension.ANGLE, "at_least"

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        document, names = motion.document, (measure.values["cam"], measure.values["next"])
        one, two = (document.couplings[name] for name in names)
        if one.a != two.a:
            raise located(f"joints.{one.id}", f"'{one.id}' turns with '{one.a}', '{two.id}' with '{two.a}'; take two "
                                              "cams of one shaft")  # fmt: skip
        end = _span(document, one, measure.values["segment"])[1]
        begin = _span(document, two, measure.values["next_segment"])[0]
        period = one.law.period if one.law is not None else 0.0
        gap = begin - end
        return math.remainder(gap, period) if period else gap, 0.0


def _span(document: "Document", coupling: "Coupling", number: float) -> tuple[float, float]:
    """From where to where a segment of a cam's program lasts, by the shaft's coordinate."""
    marks, law = document.programs[coupling.program].marks, coupling.law
    if law is None or number != round(number) or not 1 <= number < len(marks):
        text = f"'{coupling.program}' has segments 1 to {len(marks) - 1}; there is no {number:g}"
        raise located(f"joints.{coupling.id}", text)
    first, last = marks[int(number) - 1], marks[int(number)]
    if document.is_mirrored(coupling.id):
        return law.start + law.stop - last, law.start + law.stop - first
    return law.start + first, law.start + last
