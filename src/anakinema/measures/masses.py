"""Measures of masses along the motion."""

from typing import TYPE_CHECKING

from ..arrays import Array
from ..errors import located
from ..kinds import Field, FieldForm
from .base import OverTime

if TYPE_CHECKING:
    from ..document.model import Measure
    from ..kinematics.motion import Motion


class MassCenter(OverTime):
    name, title = "mass_center", "Centre of mass"
    description = "where the centre of mass of all that moves is along an axis"
    fields = (Field("axis", form=FieldForm.WORD, words=("x", "y"), description="the axis"),)

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        from ..kinematics.masses import center_along, lacking, masses_in

        document = motion.document
        moving = [part for part in document.parts.values() if not part.fixed and part.shapes]
        known = masses_in(motion)
        found = {part.id: known[part.id] for part in moving if part.id in known}
        if len(found) < len(moving) or not found:
            missing = next((part for part in moving if part.id not in found), None)
            why = "nothing that moves has an outline" if missing is None else lacking(document, missing)
            raise located("parts", why)
        center = center_along(motion, found, t)
        along: Array = center.real if measure.values["axis"] == "x" else center.imag
        return along
