"""What can be measured of a mechanism through its motion: one class for each measure, in the file of its subject. A new
one is a class there and an entry here; document, window, command line and studies then offer it."""

from .base import Infinite, MeasureType, OverTime, OverWhole
from .between import Angle, Clearance, Distance, Measured
from .camming import (
    CamCurvature,
    CamFace,
    CamPressureAngle,
    CamSliding,
    CamTiming,
    CamUndercut,
    LeavesCamAt,
)
from .coordinates import Acceleration, Coordinate, EndGap, OutOfRatio, Travel, Velocity
from .expressions import Expression
from .extremes import Ends
from .force import MechanicalAdvantage, PressureAngle, TransmissionAngle
from .jerking import Jerk, JerkAlong, PointJerk
from .masses import MassCenter
from .points import (
    AccelerationAlong,
    PartRate,
    PathLength,
    Place,
    PointAcceleration,
    Speed,
    Straightness,
    VelocityAlong,
)
from .strokes import Dwell, Reversals, TimeRatio
from .sweeping import SweptClear, SweptInside
from .touching import ContactLost, InContact, LandsAt

MEASURE_TYPES: dict[str, MeasureType] = {
    kind.name: kind
    for kind in (
        Travel(), Coordinate(), Velocity(), Acceleration(), Jerk(), EndGap(), OutOfRatio(), Dwell(), Reversals(),
        TimeRatio(), TransmissionAngle(), PressureAngle(), MechanicalAdvantage(), Clearance(), Distance(), Angle(),
        Place(), Speed(), PointAcceleration(), PointJerk(), VelocityAlong(), AccelerationAlong(), JerkAlong(),
        PartRate(), MassCenter(), SweptInside(), SweptClear(), PathLength(), Straightness(),
        ContactLost(), InContact(), LandsAt(),
        CamPressureAngle(), CamSliding(), CamCurvature(), CamUndercut(), CamFace(), LeavesCamAt(), CamTiming(),
        Measured(), Expression(),
    )
}  # fmt: skip
"""By the name that a document writes."""
TRACKED = tuple(name for name, kind in MEASURE_TYPES.items() if not kind.whole)
"""Those that can be a track of the strip."""

__all__ = ["MEASURE_TYPES", "TRACKED", "Ends", "Infinite", "MeasureType", "OverTime", "OverWhole"]
