"""Sample values for the fields that kinds declare, and documents that hold one of a kind."""

from anakinema.joints import JOINT_TYPES
from anakinema.kinds import Field

SAMPLE = {"through": [[0, 0], [20, 0]], "vertices": [[0, 0], [9, 0], [9, 9]], "center": [1, 2], "size": [9, 7],
          "segments": [{"to": [9, 0]}, {"to": [9, 9]}], "start": [0, 0], "from": 10, "to": 80, "radius": 12,
          "direction": 0, "teeth": [20, 40], "diameters": [5, 6], "length": 20, "ratio": 2}  # fmt: skip


def value(field: Field):
    """A sample value."""
    return SAMPLE.get(field.name, 3)


def needed(kind):
    """What a kind can't be without, by sample values."""
    if kind.name in ("pin-slot", "belt"):  # one of two
        return {kind.fields[0].name: value(kind.fields[0])}
    return {field.name: value(field) for field in kind.fields if field.required}


def shape_of(shape):
    """A shape with all its fields."""
    return {"kind": shape.kind, **{field.name: value(field) for field in shape.fields}}


def joined(kind, given=None):
    """A document with a joint of a kind between parts, or a coupling of two joints."""
    given = needed(kind) if given is None else given
    sides = {"a": "one.A", "b": "two.A"} if kind.name in JOINT_TYPES else {"a": "turn", "b": "turn2"}
    if getattr(kind, "of_edges", False):
        sides = {"a": "one.rim", "b": "two.rim"}
    if kind.name == "rack":
        sides["b"] = "slide"
    part = {"points": {"A": [0, 0]}, "edges": {"rim": {"center": [0, 0], "radius": 5}}}
    return {"anakinema": 1, "parts": {"one": {**part, "fixed": True}, "two": {**part, "pose": [10, 0, 0]},
                                      "three": part, "four": part},
            "joints": {"turn": {"type": "revolute", "a": "one.A", "b": "three.A"},
                       "turn2": {"type": "revolute", "a": "one.A", "b": "four.A"},
                       "slide": {"type": "prismatic", "a": "one.A", "b": "four.A", "direction": 0},
                       "new": {"type": kind.name, **sides, **given}}}  # fmt: skip
