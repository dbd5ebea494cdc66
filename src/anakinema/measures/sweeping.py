"""Measures of swept areas: how far they stay within an outline, or clear of a part."""

from typing import TYPE_CHECKING

from ..kinds import Field, FieldForm
from .base import OverWhole

if TYPE_CHECKING:
    import shapely

    from ..document.model import Measure
    from ..kinematics.motion import Motion

PART = Field("part", form=FieldForm.PART, required=True, description="the part that sweeps")


class SweptInside(OverWhole):
    name, title = "swept_inside", "Swept area inside"
    description = "how far the area that a part sweeps stays inside the outline of another, seen from that; below " \
                  "zero it sticks out by so much"  # fmt: skip
    fields = (PART, Field("outline", form=FieldForm.PART, required=True, description="the part that is not to be left"))
    first_bound, slow = "at_least", True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        import shapely

        from ..clearance.swept import fixed_outline, swept

        found = swept(motion, [measure.values["part"]], measure.values["outline"])
        outline, error = fixed_outline(motion.document, measure.values["outline"])
        whole = shapely.union_all([shapely.Polygon(one.exterior) for one in shapely.get_parts(outline)])
        off = found.error + error
        if shapely.covers(whole, found.area):
            return float(shapely.distance(shapely.boundary(whole), found.area)) - off, 0.0
        return -_furthest(shapely.difference(found.area, whole), whole) - off, 0.0


class SweptClear(OverWhole):
    name, title = "swept_clear", "Swept area clear of"
    description = "how far the area that a part sweeps stays clear of another part, or of what that sweeps; below " \
                  "zero they overlap by so much"  # fmt: skip
    fields = (PART, Field("of", form=FieldForm.PART, required=True, attribute="other",
                          description="the other part"))  # fmt: skip
    first_bound, slow = "at_least", True

    def value(self, measure: "Measure", motion: "Motion") -> tuple[float, float]:
        import shapely

        from ..clearance.swept import swept

        one, two = (swept(motion, [measure.values[key]]) for key in ("part", "other"))
        off = one.error + two.error
        apart = float(shapely.distance(one.area, two.area))
        if apart > 0.0:
            return apart - off, 0.0
        rest = shapely.difference(two.area, one.area)
        return -_furthest(shapely.intersection(one.area, two.area), rest if not rest.is_empty else two.area) - off, 0.0


def _furthest(area: "shapely.Geometry", other: "shapely.Geometry") -> float:
    """The greatest distance of the corners of an area from another."""
    import shapely

    corners = shapely.points(shapely.get_coordinates(area))
    return float(shapely.distance(corners, other).max(initial=0.0)) if corners.size else 0.0
