"""Contracts of the registries: each kind says all that is needed to read it, to write it down and to document it."""

import ast
from pathlib import Path

import jsonschema
import pytest

import anakinema
from anakinema.document import read_document
from anakinema.errors import DocumentError
from anakinema.formats import project
from anakinema.formats.schema import schema
from anakinema.geometry.outline import slabs
from anakinema.geometry.rings import area
from anakinema.geometry.shapes import SHAPES, CamOutline
from anakinema.joints import COUPLING_TYPES, JOINT_TYPES, PIN, Meeting
from anakinema.kinds import FieldForm
from anakinema.measures import MEASURE_TYPES
from samples import joined, needed, shape_of, wearing
from tools_of_repository import declare

SOURCES = Path(anakinema.__file__).parent.parent
TYPES = [*JOINT_TYPES.values(), *COUPLING_TYPES.values()]
@pytest.mark.parametrize("kind", TYPES, ids=lambda kind: kind.name)
def test_a_joint_type_is_read_by_its_fields_fits_the_schema_and_is_documented(kind):
    given = needed(kind)
    tree = joined(kind)
    read_document(tree)
    jsonschema.validate(tree, schema())
    for name in given:
        without = joined(kind, {key: one for key, one in given.items() if key != name})
        with pytest.raises(DocumentError, match=name):
            read_document(without)
    for field in kind.fields:
        assert field.description
        if field.form is FieldForm.WORD:
            with pytest.raises(DocumentError, match="is wanted, this is 'neither'"):
                read_document(joined(kind, {**given, field.name: "neither"}))
    assert kind.title
    assert kind.holds
    assert kind.symbol


def test_what_is_known_of_a_joint_type_agrees_with_its_rows():
    """A pin, a weld, a rod; what leaves one motion; what is proposed for two features."""
    for kind in JOINT_TYPES.values():
        fields = ("direction", "offset", "radius", "length", "angle")
        values = {field: 1.0 for field in fields if field not in kind.one_of[1:]}
        rows = kind.rows(values, 0.0)
        held = sum(2 if row.kind == "coincident" else 1 for row in rows)
        assert kind.meets == any(row.kind == "coincident" for row in rows)
        assert (kind.guide is not None) == (held == 2 and not kind.of_edges)
        assert kind.rigid == (held == 3)
        assert kind.rod == (kind.coordinate(values) is None and held == 1)
    for meeting in Meeting:
        ranks = [kind.suits[meeting] for kind in JOINT_TYPES.values() if meeting in kind.suits]
        assert sorted(ranks) == list(range(len(ranks))) and len(ranks) > 1
    assert JOINT_TYPES[PIN].pin
    for coupling in COUPLING_TYPES.values():
        if coupling.by_program:
            continue
        guess = {key: tuple(one) if isinstance(one, list) else one for key, one in coupling.first_guess.items()}
        assert not coupling.faults(guess) and coupling.ratio(guess)


def test_no_name_of_a_joint_type_stands_outside_the_joints():
    """Who wants to know something of a joint asks its type for it. Words that mean something else too may stand, but
    are not held against a type."""
    names = {*JOINT_TYPES, *COUPLING_TYPES}
    else_too = {"fixed", "distance", "ratio", "belt", "rolling", "cam", "gear", "rack"}  # parts, measures, shapes…
    found = []
    for path in sorted(SOURCES.rglob("*.py")):
        if path.parent.name == "joints" and path.parent.parent.name == "anakinema":
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            said = isinstance(node, ast.Constant) and node.value in names - else_too
            if isinstance(node, (ast.Compare, ast.Match)):
                left = ast.unparse(node.left if isinstance(node, ast.Compare) else node.subject)
                words = {one.value for one in ast.walk(node) if isinstance(one, ast.Constant)}
                said = left.endswith((".type", "kind.name")) and bool(words & names)
            if said:
                found.append(f"{path.relative_to(SOURCES)}:{node.lineno}")
    assert not found


@pytest.mark.parametrize("shape", SHAPES, ids=lambda shape: shape.title)
def test_a_shape_is_read_by_its_fields_encloses_something_and_can_be_turned_over(shape):
    given = shape_of(shape)
    tree, part = wearing(shape)
    jsonschema.validate(tree, schema())
    read = read_document(tree).parts[part].shapes[0]
    assert type(read) is shape
    one, two = (slabs((each,), (0.0, 1.0))[0].region.edges for each in (read, read.mirrored()))
    assert area(one) > 0
    assert area(two) == pytest.approx(area(one))
    assert read.mirrored().mirrored() == read
    for field in shape.fields:
        if field.required and field is not shape.fields[0]:
            without = {key: one for key, one in given.items() if key != field.name}
            with pytest.raises(DocumentError, match=f"'{field.name}' is missing"):
                read_document(wearing(shape, without)[0])
        if field.size:
            with pytest.raises(DocumentError, match=f"{field.name}: must be greater than zero"):
                read_document(wearing(shape, {**given, field.name: 0})[0])


@pytest.mark.parametrize("kind", MEASURE_TYPES.values(), ids=lambda kind: kind.name)
def test_a_measure_is_read_judged_and_documented(kind):
    from anakinema.findings import analyse

    forms = {FieldForm.JOINT: "slide", FieldForm.PARTS: ["one", "four"], FieldForm.FEATURE: "four.A",
             FieldForm.LINE: "four",
             FieldForm.MEASURE: "known", FieldForm.NUMBER: 1, FieldForm.AMOUNT: 0.1, FieldForm.TRACE: "eye",
             FieldForm.POINT: "four.A",
             FieldForm.WORD: "x", FieldForm.PART: "one", FieldForm.CONTACT: "meet",
             FieldForm.CAM: "new", FieldForm.FLAG: True,
             FieldForm.EXPRESSION: "2 * known"}  # fmt: skip
    given = {field.name: forms[field.form] for field in kind.fields if field.form is not FieldForm.DRIVER}
    if "b" in given:
        given["a"] = "one.A" if kind.name == "distance" else "one"
    of_cam = any(field.form is FieldForm.CAM for field in kind.fields)
    tree = (wearing(CamOutline)[0] if of_cam else joined(JOINT_TYPES["fixed"], {})) | {
        "measures": {"known": {"measure": "distance", "a": "one.A", "b": "four.A"}},
        "traces": {"eye": {"point": "four.A"}},
        "checks": {"c": {"measure": kind.name, **given, "at_most": 9}},
    }
    tree["joints"]["meet"] = {"type": "contact", "a": "one", "b": "four"}
    if not kind.whole:
        tree["tracks"] = {"t": {"measure": kind.name, **given, "height": 60}}
    jsonschema.validate(tree, schema())
    found = analyse(read_document(tree))
    assert found.verdicts["c"].outcome
    assert kind.whole or "t" in found.tracks
    assert kind.title
    assert kind.description


def test_schema_and_docs_are_what_the_kinds_declare():
    jsonschema.Draft202012Validator.check_schema(schema())
    assert project.schema() == schema()
    for path, text in declare().items():
        assert path.read_text() == text, f"{path.name} is not what tools/declare.py writes; run make declare"
