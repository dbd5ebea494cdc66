"""Reading what ties two joints."""

import math
from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from ..joints import CouplingType
from .model import Coupling
from .read_context import NAN, ReadContext
from .read_names import NAMED, coordinate
from .sections import SECTIONS, keys_of

MOST_RATIO = 1e9
"""Greatest ratio of a coupling, either way (rad, document lengths)."""


def read_coupling(
    context: ReadContext, key: str, kind: CouplingType, item: Mapping[str, Any], place: str
) -> Coupling:
    """What ties two joints."""
    context.unknown_keys(item, ("type", "a", "b", *SECTIONS["joints"].keys, *keys_of(kind.fields)), place)
    a, a_dimension = tied(context, item, "a", kind.wants[0], place)
    b, b_dimension = tied(context, item, "b", kind.wants[1], place)
    if a and a == b:
        context.fault(place, f"ties joint '{a}' to itself")
    before = len(context.faults)
    given = context.given(kind.fields, item, place, NAMED)
    carrier = given.pop("carrier", None)
    numbers = [number for value in given.values() for number in _numbers(value)]
    whole = len(context.faults) == before and not any(map(math.isnan, numbers))
    faults = kind.faults(given) if whole else []
    for text in faults:
        context.fault(place, text)
    ratio = NAN if faults or not whole else kind.ratio(given)
    if kind.in_document_units and context.units.angle == "deg":
        per = {"angle": math.degrees(1.0), "length": 1.0, "": 1.0}
        ratio *= per[a_dimension] / per[b_dimension]
    if not (math.isnan(ratio) or 1.0 / MOST_RATIO <= abs(ratio) <= MOST_RATIO):
        context.fault(place, f"a ratio of {abs(ratio):.6g} can't be meant; at most {MOST_RATIO:g} is")
    return Coupling(
        id=key,
        type=kind.name,
        a=a,
        b=b,
        ratio=ratio,
        given=MappingProxyType(given),
        carrier=carrier,
        suspended=context.flag(item, "suspended", place),
        note=context.text(item, "note", place),
    )


def tied(context: ReadContext, item: Mapping[str, Any], side: str, wanted: str | None, place: str) -> tuple[str, str]:
    """The joint at a side of a coupling and its coordinate's dimension."""
    name, dimension = coordinate(context, context.required(item, side, place), f"{place}.{side}")
    if dimension and wanted and dimension != wanted:
        kinds = "a revolute joint" if wanted == "angle" else "a prismatic joint"
        context.fault(f"{place}.{side}", f"{kinds} is wanted, '{name}' is a {context.joints[name].type} joint")
    return name, dimension


def _numbers(value: Any) -> tuple[float, ...]:
    return value if isinstance(value, tuple) else (value,) if isinstance(value, float) else ()
