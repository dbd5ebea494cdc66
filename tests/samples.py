"""Sample values for the fields that kinds declare, and documents that hold one of a kind."""

from anakinema.joints import COUPLING_TYPES, JOINT_TYPES
from anakinema.kinds import Field, FieldForm

SAMPLE = {"through": [[0, 0], [20, 0]], "vertices": [[0, 0], [9, 0], [9, 9]], "center": [1, 2], "size": [9, 7],
          "segments": [{"to": [9, 0]}, {"to": [9, 9]}], "start": [0, 0], "from": 10, "to": 80, "radius": 12,
          "direction": 0, "teeth": [20, 40], "diameters": [5, 6], "length": 20, "ratio": 2, "program": "rise",
          "joint": "new", "pressure_angle": 20, "module": 2, "addendum": 0.8, "dedendum": 1.2, "shift": 0,
          "backlash": 0, "rim": 80, "pitch": 8, "roller": 5}  # fmt: skip


def value(field: Field):
    """A sample value."""
    if field.form is FieldForm.FLAG:
        return True
    if field.form is FieldForm.WORD:
        return field.words[0]
    if field.name == "teeth" and field.form is FieldForm.NUMBER:
        return 60
    return SAMPLE.get(field.name, 3)


def needed(kind):
    """What a kind can't be without, by sample values."""
    if kind.name in ("pin-slot", "belt", "gear", "rack"):  # one of two
        return {kind.fields[0].name: value(kind.fields[0])}
    return {field.name: value(field) for field in kind.fields if field.required}


def shape_of(shape):
    """A shape with all its fields."""
    return {"kind": shape.kind, **{field.name: value(field) for field in shape.fields}}


def wearing(shape, given=None):
    """A document with a part that has a shape, and the part's name."""
    given = shape_of(shape) if given is None else given
    if not any(field.form is FieldForm.CAM for field in shape.fields):
        return {"anakinema": 1, "parts": {"p": {"fixed": True, "points": {"A": [0, 0]}, "shapes": [given]}}}, "p"
    tree = joined(COUPLING_TYPES["cam"])
    tree["parts"]["four"] = {"points": {"A": [60, 0], "tip": [30, 0]}}
    tree["joints"]["turn2"]["a"] = "one.far"
    tree["parts"]["one"]["points"]["far"] = [60, 0]
    tree["joints"]["new"]["follower"] = {"kind": "roller", "at": "four.tip", "radius": 1}
    tree["parts"]["three"] = {**tree["parts"]["three"], "shapes": [given]}
    return tree, "three"


def joined(kind, given=None):
    """A document with a joint of a kind between parts, or a coupling of two joints."""
    given = needed(kind) if given is None else given
    sides = {"a": "one.A", "b": "two.A"} if kind.name in JOINT_TYPES else {"a": "turn", "b": "turn2"}
    if getattr(kind, "of_edges", False):
        sides = {"a": "one.rim", "b": "two.rim"}
    if kind.name == "rack":
        sides["b"] = "slide"
    part = {"points": {"A": [0, 0]}, "edges": {"rim": {"center": [0, 0], "radius": 5}}}
    if getattr(kind, "by_program", False):
        extra = {"programs": {"rise": {"segments": [{"over": "180 deg", "to": "9 deg", "law": "cycloidal"},
                                                    {"over": "180 deg", "to": 0, "law": "cycloidal"}]}}}  # fmt: skip
    else:
        extra = {}
    return {"anakinema": 1, **extra, "parts": {"one": {**part, "fixed": True}, "two": {**part, "pose": [10, 0, 0]},
                                      "three": part, "four": part},
            "joints": {"turn": {"type": "revolute", "a": "one.A", "b": "three.A"},
                       "turn2": {"type": "revolute", "a": "one.A", "b": "four.A"},
                       "slide": {"type": "prismatic", "a": "one.A", "b": "four.A", "direction": 0},
                       "new": {"type": kind.name, **sides, **given}}}  # fmt: skip
