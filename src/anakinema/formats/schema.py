"""The JSON Schema of the project file, and the tables of the docs, made from what the kinds declare."""

from collections.abc import Iterable, Mapping
from typing import Any

from ..document.read_parameters import SPREADS
from ..document.sections import HARDWARE, ITEM, LIMITS, PART, REPEAT, SECTIONS, USE
from ..document.units import ANGLE_UNITS, LENGTH_UNITS
from ..geometry.shapes import SHAPES
from ..joints import CONTACT, COUPLING_TYPES, JOINT_TYPES
from ..joints.cam import FOLLOWER_FIELDS
from ..kinds import Field, FieldForm
from ..laws import STANDARD
from ..measures import MEASURE_TYPES

Schema = dict[str, Any]


def _ref(name: str) -> Schema:
    return {"$ref": f"#/$defs/{name}"}


def _list(entry: Schema, least: int, most: int | None = None) -> Schema:
    return {"type": "array", "items": entry, "minItems": least} | ({} if most is None else {"maxItems": most})


def _object(required: Iterable[str] = (), **properties: Schema) -> Schema:
    needed = list(required)
    return {"type": "object", **({"required": needed} if needed else {}), "properties": properties}


def _named(entry: Schema) -> Schema:
    """An object of entries by name."""
    return {"type": "object", "propertyNames": _ref("id"), "additionalProperties": entry}


TEXT: Schema = {"type": "string"}
FLAG: Schema = {"type": "boolean"}
VALUE = _ref("value")
POINT = _ref("reference")
SEGMENTS = _list(_object(["to"], to=_ref("spot"), center=_ref("spot"), ccw=FLAG), 1)
FORMS: Mapping[FieldForm, Schema] = {
    FieldForm.NUMBER: VALUE, FieldForm.PAIR: _ref("pair"), FieldForm.SPOT: _ref("spot"), FieldForm.SEGMENTS: SEGMENTS,
    FieldForm.PART: _ref("path"), FieldForm.JOINT: _ref("path"), FieldForm.MEASURE: _ref("id"),
    FieldForm.TRACE: _ref("path"), FieldForm.CONTACT: _ref("path"), FieldForm.PROGRAM: _ref("id"),
    FieldForm.TEXT: TEXT, FieldForm.NAME: _ref("id"), FieldForm.POSE: _list(VALUE, 3, 3),
    FieldForm.NUMBERS: {"type": "object", "additionalProperties": VALUE},
    FieldForm.MEMBERS: {**_list(_ref("path"), 1), "uniqueItems": True},
    FieldForm.DRIVER: _ref("id"), FieldForm.CAM: _ref("path"), FieldForm.FLAG: FLAG, FieldForm.EXPRESSION: TEXT,
    FieldForm.POINT: POINT, FieldForm.POINTS: _list(POINT, 0), FieldForm.AMOUNT: VALUE,
    FieldForm.PARTS: _list(_ref("path"), 2, 2),
    FieldForm.FEATURE: {"anyOf": [POINT, _list(POINT, 2, 2)]},
    FieldForm.LINE: {"anyOf": [_ref("path"), _list(POINT, 2, 2)]},
}  # fmt: skip


def of_field(field: Field) -> Schema:
    """What may stand in a field."""
    if field.form is FieldForm.FOLLOWER:
        required = [one.name for one in FOLLOWER_FIELDS if one.required]
        return _object(required, **{one.name: of_field(one) for one in FOLLOWER_FIELDS})
    if field.form is FieldForm.WORD:
        return {"enum": list(field.words)}
    if field.form is FieldForm.COUNT:
        return {"type": "integer", "minimum": field.least, "maximum": field.most}
    found = _list(_ref("spot"), field.least, field.most) if field.form is FieldForm.SPOTS else FORMS[field.form]
    return {**found, "description": field.description} if field.description and "$ref" not in found else found


def _of_kind(key: str, name: str, fields: Iterable[Field], **more: Schema) -> Schema:
    fields = tuple(fields)
    required = [key, *(field.name for field in fields if field.required)]
    return _object(required, **{key: {"const": name}}, **{field.name: of_field(field) for field in fields}, **more)


def _entry(fields: Iterable[Field], **more: Schema) -> Schema:
    """An entry of a section, or a piece of one, by its fields; `more` are forms that stand for theirs."""
    fields = tuple(fields)
    required = [field.name for field in fields if field.required]
    return _object(required, **{field.name: more.get(field.name) or of_field(field) for field in fields})


def schema() -> Schema:
    """The JSON Schema of a document, version 1."""
    varies = {"anyOf": [VALUE, _object(["by"], by=VALUE, spread={"enum": list(SPREADS)})]}
    parameter = {"anyOf": [VALUE, _object(["value"], value=VALUE, note=TEXT, tolerance=varies)]}
    content = {
        "parameters": {"type": "object", "additionalProperties": parameter},
        "parts": _named({"anyOf": [_ref("use"), _ref("repeat"), _ref("part")]}),
        "groups": _named(_entry(SECTIONS["groups"].fields)),
        "joints": _named(_ref("joint")),
        "traces": _named(_entry(SECTIONS["traces"].fields)),
    }
    law = {"enum": list(STANDARD)}
    driver = _entry(SECTIONS["drivers"].fields)
    driver["oneOf"] = [{"required": [one]} for one in ("to", "program", "follows")]
    segment = _object(["over"], over=VALUE, to=VALUE, law=law, note=TEXT)
    sine = _object(["amplitude", "period"], amplitude=VALUE, period=VALUE, phase=VALUE, middle=VALUE, cycles=VALUE)
    harmonic = _object(["order", "amplitude"], order=VALUE, amplitude=VALUE, phase=VALUE, note=TEXT)
    program = {**_object(segments=_list(segment, 1), points=_list(_ref("pair"), 2), sine=sine, note=TEXT,
                         curve={"enum": ["smooth", "straight"]}, harmonics=_list(harmonic, 1)),
               "oneOf": [{"required": [one]} for one in ("segments", "points", "sine", "harmonics")]}  # fmt: skip
    units = _object(length={"enum": list(LENGTH_UNITS)}, angle={"enum": list(ANGLE_UNITS)})
    bounds, noted, lane = ({field.name: of_field(field) for field in SECTIONS[name].fields}
                           for name in ("checks", "measures", "tracks"))  # fmt: skip
    check = {"oneOf": [_of_kind("measure", kind.name, kind.fields, **bounds) for kind in MEASURE_TYPES.values()],
             "anyOf": [{"required": ["at_least"]}, {"required": ["at_most"]}]}  # fmt: skip
    measures = [_of_kind("measure", kind.name, kind.fields, **noted) for kind in MEASURE_TYPES.values()
                if kind is not MEASURE_TYPES["measured"]]
    tracks = [_of_kind("measure", kind.name, kind.fields, **lane)
              for kind in MEASURE_TYPES.values() if not kind.whole]  # fmt: skip
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Anakinema document, version 1",
        "description": "A planar mechanism with depth. Unknown keys are allowed, kept and told as warnings.",
        **_object(
            ["anakinema"], anakinema={"const": 1}, title=TEXT, units=units, **content,
            assemblies=_named(_object(**content, label=TEXT, note=TEXT)),
            drivers=_named({**driver, "not": {"required": ["rate", "duration"]}}),
            measures=_named({"oneOf": measures}),
            checks=_named(check),
            programs=_named(program),
            tracks=_named({"oneOf": tracks}),
            trials={"type": "array", "items": {"type": "object"}, "description": "The log of what was tried."},
            pairs=_named(_entry(SECTIONS["pairs"].fields, ignore={**TEXT, "minLength": 1})),
            waived=_named(_entry(SECTIONS["waived"].fields, reason={**TEXT, "minLength": 1})),
            picture=_entry(SECTIONS["picture"].fields),
            materials={"type": "object", "additionalProperties": _entry(SECTIONS["materials"].fields)},
            positions=_named({**_entry(SECTIONS["positions"].fields),
                              "oneOf": [{"required": ["drivers"]}, {"required": ["joints"]}]}),
        ),
        "$defs": _definitions(),
    }  # fmt: skip


def _definitions() -> Schema:
    shape = [_of_kind("kind", shape.kind, shape.fields, cut=FLAG, depth=_ref("pair")) for shape in SHAPES]
    limits = _entry(LIMITS)
    common = {field.name: of_field(field) for field in SECTIONS["joints"].fields}
    joint = [_of_kind("type", kind.name, kind.fields, a=POINT, b=POINT, limits=limits, **common)
             for kind in JOINT_TYPES.values()]  # fmt: skip
    joint += [_of_kind("type", kind.name, kind.fields, a=_ref("path"), b=_ref("path"), **common)
              for kind in COUPLING_TYPES.values()]  # fmt: skip
    joint.append(_of_kind("type", CONTACT.name, (), a=_ref("path"), b=_ref("path"), **common))
    for one in joint:
        one["required"] += ["a", "b"]
    arc = _object(["center", "radius"], center=_ref("spot"), radius=VALUE, to=VALUE, **{"from": VALUE})
    line = _object(["from", "to"], to=_ref("spot"), **{"from": _ref("spot")})
    poses = {"type": "object", "propertyNames": _ref("path"), "additionalProperties": FORMS[FieldForm.POSE]}
    return {
        "value": {"description": "A number in the document's units, or an expression with units and parameter names.",
                  "type": ["number", "string"]},
        "id": {"type": "string", "pattern": "^[\\w-]+$"},
        "path": {"description": "A name; of what stands in a sub-assembly, behind that of its use: left/arm.",
                 "type": "string", "pattern": "^[\\w-]+(/[\\w-]+)*$"},
        "reference": {"type": "string", "pattern": "^[\\w-]+(/[\\w-]+)*\\.[\\w-]+$"},
        "pair": _list(VALUE, 2, 2),
        "spot": {"anyOf": [TEXT, _ref("pair")]},
        "part": {
            **_entry(PART, points=_named(_ref("pair")), edges=_named(_ref("edge")),
                     shapes={"type": "array", "items": _ref("shape")},
                     hardware=_entry(HARDWARE), item=_entry(ITEM, number={"type": ["string", "integer"]})),
            "not": {"anyOf": [{"required": ["assembly"]}, {"required": ["repeat"]}]},
        },
        "repeat": {
            **_entry(REPEAT),
            "description": "A part `count` times, itself counted: in a row, around a center, or as a strand.",
        },
        "use": {
            **_entry(USE, poses=poses),
            "description": "A sub-assembly in its place. `poses` are rough placements of its parts in this use.",
        },
        "shape": {"oneOf": shape},
        "joint": {"oneOf": joint},
        "edge": {"description": "A contact edge: straight, or an arc counter-clockwise from one angle to another.",
                 "oneOf": [arc, {**line, "not": {"required": ["center"]}}]},
    }  # fmt: skip


# -- tables of the docs ----------------------------------------------------------------------------------------


def _keys(fields: Iterable[Field]) -> str:
    described = []
    for field in fields:
        words = f": {', '.join(f'`{word}`' for word in field.words)}" if field.words else ""
        optional = "" if field.required or field.words else " (may be left out)"
        described.append(f"`{field.name}`{optional}{words}, {field.description}")
    return "; ".join(described)


def _table(head: tuple[str, ...], rows: Iterable[tuple[str, ...]]) -> str:
    lines = [head, tuple("---" for _ in head), *rows]
    return "\n".join(f"| {' | '.join(row)} |" for row in lines) + "\n"


def tables() -> dict[str, str]:
    """The tables of the docs by the name that their place there has."""
    of_points = [kind for kind in JOINT_TYPES.values() if not kind.of_edges]
    of_edges = [kind for kind in JOINT_TYPES.values() if kind.of_edges]
    head = ("type", "keys", "what is held", "coordinate")

    shapes = [(f"`{shape.kind}`", shape.title, _keys(shape.fields)) for shape in SHAPES]

    def rows(kinds: Iterable[Any]) -> list[tuple[str, ...]]:
        return [(f"`{kind.name}`", _keys(kind.fields), kind.holds, kind.counts) for kind in kinds]

    return {
        "joints of points": _table(head, rows(of_points)),
        "joints of edges": _table(head, rows(of_edges)),
        "couplings": _table(head[:3], [(f"`{kind.name}`", _keys(kind.fields), kind.holds)
                                       for kind in COUPLING_TYPES.values()]),
        "shapes": _table(("kind", "", "keys"), shapes),
        "laws": _table(("law", "what it does", "peak velocity", "peak acceleration"), [
            (f"`{law.name}`", law.description, f"{law.peak(1):.4g}",
             f"{law.peak(2):.4g}" if law.peak(2) else "0, jolts at its ends") for law in STANDARD.values()
        ]),
        "measures": _table(("measure", "what it is", "keys"), [
            (f"`{kind.name}`", kind.description, _keys(kind.fields)) for kind in MEASURE_TYPES.values()
        ]),
    }  # fmt: skip


def with_tables(text: str) -> str:
    """A page of the docs with its tables made anew: each stands between ``<!-- name -->`` and ``<!-- end -->``."""
    for name, table in tables().items():
        begin, end = f"<!-- {name} -->\n", "<!-- end -->"
        if begin in text:
            before, _, rest = text.partition(begin)
            text = f"{before}{begin}{table}{end}{rest.partition(end)[2]}"
    return text
