"""Reading names of what has been read: parts, points, joints and the rest."""

import math
from collections.abc import Callable, Collection, Mapping
from typing import Any

from ..errors import listed, suggestion
from ..joints import JOINT_TYPES
from ..kinds import LEAST_SIZE, Dimension, Field, FieldForm
from .model import PointRef
from .read_context import MISSING, Forms, ReadContext, ReadForm, kind_of

NOWHERE = PointRef("", "")


def parts_named(context: ReadContext, name: Any) -> list[str]:
    """The part of a name, or all of the sub-assembly of that name."""
    if not isinstance(name, str):
        return []
    return [name] if name in context.parts else [part for part in context.parts if part.startswith(f"{name}/")]


def no_part(context: ReadContext, name: Any) -> str:
    """That there is no such part, in words."""
    inside = parts_named(context, name)
    if inside:
        return f"'{name}' is a sub-assembly; name one of its parts, such as '{inside[0]}'"
    return f"there is no part '{name}'{suggestion(str(name), list(context.parts))}"


def reference(context: ReadContext, value: Any, where: str, of_edges: bool = False) -> PointRef:
    """A point or an edge of a part, written ``part.point``."""
    if value is MISSING:
        return NOWHERE
    if not isinstance(value, str) or value.count(".") != 1:
        context.fault(where, "'part.point' is wanted")
        return NOWHERE
    part, point = value.split(".")
    if part not in context.parts:
        context.fault(where, no_part(context, part))
    elif of_edges and point not in context.parts[part].edges:
        context.fault(where, f"part '{part}' has no edge '{point}'{_what_there_is(point, context.parts[part].edges)}")
    elif not of_edges and point not in context.parts[part].points:
        context.fault(where, f"part '{part}' has no point '{point}'{_what_there_is(point, context.parts[part].points)}")
    return PointRef(part, point)


def a_part(context: ReadContext, value: Any, where: str) -> str:
    """The name of a part; empty after a fault."""
    if isinstance(value, str) and value in context.parts:
        return value
    context.fault(where, no_part(context, value))
    return ""


def coordinate(context: ReadContext, name: Any, where: str) -> tuple[str, str]:
    """The joint that is named and its coordinate's dimension; empty after a fault."""
    if name is MISSING:
        return "", ""
    if isinstance(name, str) and name in context.touching:
        context.fault(where, f"'{name}' is a contact and has no coordinate; name the joint of one of its parts")
        return "", ""
    if isinstance(name, str) and name in context.tied:
        kind = context.tied[name]
        context.fault(where, f"'{name}' is a {kind} and has no coordinate; name one of the joints that it ties")
        return "", ""
    if not isinstance(name, str) or name not in context.joints:
        context.fault(where, f"there is no joint '{name}'{suggestion(str(name), list(context.joints))}")
        return "", ""
    joint = context.joints[name]
    if not joint.type:
        return name, ""
    dimension: Dimension | None = JOINT_TYPES[joint.type].coordinate_dimension(joint.values)
    if dimension is None:
        context.fault(where, f"joint '{name}' is a {joint.type} joint and has no coordinate")
        return name, ""
    return name, dimension


def one_of(context: ReadContext, value: Any, where: str, what: str, known: Collection[str]) -> str:
    """A name among known ones; empty, and a fault, where it is none."""
    if isinstance(value, str) and value in known:
        return value
    context.fault(where, f"there is no {what} '{value}'{suggestion(str(value), list(known))}")
    return ""


def feature(context: ReadContext, value: Any, where: str, least: int = 1) -> tuple[PointRef, ...]:
    """A point, or the line through two points of one part."""
    if isinstance(value, str) and least == 1:
        return (reference(context, value, where),)
    entries = context.listing(value, where, 2, 2)
    found = tuple(reference(context, entry, where) for entry in entries)
    if len(found) == 2 and found[0].part != found[1].part:
        context.fault(where, "a line runs through two points of one part; these are of two")
    elif len(found) == 2 and found[0].part in context.parts:
        points = context.parts[found[0].part].points
        ends = [points[ref.point] for ref in found if ref.point in points]
        if len(ends) == 2 and math.dist(*ends) < LEAST_SIZE:
            context.fault(where, "both points lie at the same place; a line runs through two that are apart")
    return found


def two_parts(context: ReadContext, value: Any, where: str) -> tuple[str, str]:
    """The names of two parts; empty after a fault."""
    entries = context.listing(value, where, 2, 2)
    for entry in entries:
        a_part(context, entry, where)
    if len(entries) == 2 and entries[0] == entries[1]:
        context.fault(where, "names the same part twice")
    return (str(entries[0]), str(entries[1])) if entries else ("", "")


def _what_there_is(word: str, known: Mapping[str, Any]) -> str:
    """What could have been meant instead: the nearest name, and all of them where they are few."""
    names = list(known)
    near = suggestion(word, names)
    return near or (f"; it has {listed(names)}" if names else "; it has none")


def _line(context: ReadContext, _: Field, value: Any, where: str) -> tuple[PointRef, ...]:
    """A line of a part: through two of its points, or the one along which it slides."""
    if isinstance(value, str) and "." not in value:
        return (PointRef(a_part(context, value, where), ""),)
    return feature(context, value, where, 2)


def _expression(context: ReadContext, _: Field, value: Any, where: str) -> str:
    if isinstance(value, str):
        return value
    context.fault(where, f"an expression that names measures is wanted, this is {kind_of(value)}")
    return "0"


def _among(what: str, known: Callable[[ReadContext], Collection[str]]) -> ReadForm:
    """Reads a name among known ones."""
    return lambda context, _, value, where: one_of(context, value, where, what, known(context))


NAMED: Forms = {
    FieldForm.PART: lambda context, _, value, where: a_part(context, value, where),
    FieldForm.PARTS: lambda context, _, value, where: two_parts(context, value, where),
    FieldForm.POINT: lambda context, _, value, where: (reference(context, value, where),),
    FieldForm.FEATURE: lambda context, _, value, where: feature(context, value, where),
    FieldForm.LINE: _line,
    FieldForm.JOINT: lambda context, _, value, where: coordinate(context, value, where)[0],
    FieldForm.AMOUNT: lambda context, _, value, where: value,  # read when it is known what the joint counts
    FieldForm.EXPRESSION: _expression,
    FieldForm.TRACE: _among("trace", lambda context: context.traces),
    FieldForm.CONTACT: _among("contact", lambda context: context.contacts),
    FieldForm.CAM: _among("cam joint", lambda context: [
        name for name, one in context.couplings.items() if one.kind.by_program]),
    FieldForm.DRIVER: _among("driver", lambda context: context.drivers),
    FieldForm.MEASURE: _among("measure", lambda context: context.measures),
}  # fmt: skip
"""What stands in a field that names something."""
