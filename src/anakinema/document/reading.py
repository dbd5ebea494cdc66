"""From a JSON tree to a document: every fault is found, named and located; nothing is guessed.

`read_document` is the only maker of documents. It evaluates all expressions on the way and remembers the number behind
each place of the tree. Each section has its reader, a function of the `ReadContext` that all share: what stands where
is in `read_parameters`, `read_programs`, `read_parts`, `read_joints`, `read_assemblies`, `read_study`.
"""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from ..errors import DocumentError, Fault
from ..kinds import Units
from .model import MOST_EFFORT, Document, Parameter, Tree
from .read_assemblies import Assembly, Library, read_all_parts, read_joined
from .read_context import ReadContext, kind_of
from .read_joints import read_trace
from .read_parameters import read_parameters
from .read_programs import read_program
from .read_study import (
    keeping,
    read_checks,
    read_drivers,
    read_measures,
    read_picture,
    read_position,
    read_said_of_pair,
    read_track,
    read_waived,
)
from .sections import SECTIONS
from .touching import idle_contacts
from .units import ANGLE_UNITS, LENGTH_UNITS

VERSION = 1
HEADER = ("anakinema", "title", "units")
"""What a document says before its sections."""


def read_document(tree: Tree, before: Document | None = None) -> Document:
    """The document that a JSON tree describes.

    Raises `DocumentError` with every fault found. Unknown keys are kept and told in `Document.warnings`. Parts whose
    tree is the very object that it was in the document `before`, and whose parameters are worth the same, are taken
    from it.
    """
    if not isinstance(tree, Mapping):
        raise DocumentError([Fault("", f"the file holds {kind_of(tree)}; an object is wanted")])
    context = ReadContext(tree, before=before)
    _header(context)
    parameters = read_parameters(context)
    context.programs = context.section("programs", lambda *entry: read_program(context, *entry))
    library = Library.of(context)
    same_units = before is not None and before.units == context.units
    if before is not None and same_units:
        context.changed = _changed(before, parameters)
        library.known = _same_definitions(context, before)
    library.all()
    assembly = Assembly(library)
    read_all_parts(context, assembly, before.part_cache if before is not None and same_units else {}, context.changed)
    known = before is not None and same_units and bool(before.part_cache)
    read_joined(context, assembly, before.joint_cache if before is not None and known else {}, context.changed)
    if before is not None and known and _speaks_of_the_same(context, before):
        context.known_study = before.study_cache
    read_drivers(context)
    context.traces = keeping(context, "traces", read_trace) | assembly.traces
    read_measures(context)
    checks = read_checks(context)
    tracks = {key: one for key, one in keeping(context, "tracks", read_track).items() if one is not None}
    pairs = keeping(context, "pairs", read_said_of_pair)
    positions = keeping(context, "positions", read_position)
    waived = keeping(context, "waived", read_waived)
    for number, row in enumerate(context.listing(tree.get("trials", []), "trials")):
        context.mapping(row, f"trials.{number}")
    materials = context.section("materials", lambda *entry: _material(context, *entry))
    shown = tree.get("picture")
    picture = read_picture(context, context.mapping(shown, "picture"), "picture") if shown is not None else None
    _outlines_within_reason(context)
    if context.faults:
        raise DocumentError(context.faults)
    context.warnings += idle_contacts(context.parts, context.joints, context.groups, context.contacts)
    proxy = MappingProxyType
    return Document(
        tree=tree,
        title=str(tree.get("title", "")),
        units=context.units,
        parameters=proxy(parameters),
        parts=proxy(context.parts),
        joints=proxy(context.joints),
        couplings=proxy(context.couplings),
        contacts=proxy(context.contacts),
        programs=proxy(context.programs),
        drivers=proxy(context.drivers),
        traces=proxy(context.traces),
        checks=proxy(checks),
        pairs=proxy(pairs),
        groups=proxy(context.groups),
        uses=proxy(context.uses),
        measures=proxy(context.measures),
        tracks=proxy(tracks),
        positions=proxy(positions),
        picture=picture,
        waived=proxy(waived),
        materials=proxy(materials),
        values=proxy(context.values),
        warnings=tuple(context.warnings),
        part_cache=proxy(context.part_cache),
        joint_cache=proxy(context.joint_cache),
        study_cache=proxy(context.study_cache),
        definitions=proxy(library.read),
    )


def _changed(before: Document, parameters: Mapping[str, Parameter]) -> set[str]:
    """The parameters that are worth something else now."""
    old = before.parameters
    return {
        key for key in old.keys() | parameters.keys()
        if key not in old or key not in parameters or old[key].quantity != parameters[key].quantity
    }  # fmt: skip


def _same_definitions(context: ReadContext, before: Document) -> dict[str, Any]:
    """The sub-assemblies that are as they were."""
    if before.tree.get("assemblies") is not context.tree.get("assemblies") or before.programs != context.programs:
        return {}  # cams follow the programs
    return {name: kept for name, kept in before.definitions.items() if not kept.used & context.changed}


def _material(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> float:
    """The density of a material."""
    context.unknown_keys(item, SECTIONS["materials"].keys, place)
    return context.above_zero(context.required(item, "density", place), "number", f"{place}.density")


def _outlines_within_reason(context: ReadContext) -> None:
    """Refuses outlines that would take too long to join, at the part with which they do; equal ones count once."""
    total, seen = 0, set()
    for name, part in context.parts.items() if not context.faults else ():
        if part.shapes and id(part.shapes) not in seen:
            seen.add(id(part.shapes))
            total += part.effort
        if total > MOST_EFFORT:
            text = ("joining these outlines would take too long: they have too many lines and arcs, which meet in "
                    "too many places or at too many depths; draw them simpler, without what no clearance needs")
            context.fault(f"parts.{name}.shapes", text)  # fmt: skip
            return


def _speaks_of_the_same(context: ReadContext, before: Document) -> bool:
    """Whether what can be named is what it was before, whatever it is worth."""
    named = ("assemblies", "parts", "groups", "joints", "drivers", "traces", "measures")
    return (
        all(context.tree.get(each) is before.tree.get(each) for each in named)
        and context.parts.keys() == before.parts.keys() and context.joints.keys() == before.joints.keys()
    )  # fmt: skip


def _header(context: ReadContext) -> None:
    """Version, title, units."""
    if "anakinema" not in context.tree:
        raise DocumentError([Fault("", "not an Anakinema document: the key 'anakinema' is missing")])
    version = context.tree["anakinema"]
    if version != VERSION or isinstance(version, bool):
        text = f"version {version!r} is not known to this program, which reads version {VERSION}"
        raise DocumentError([Fault("anakinema", text)])
    context.unknown_keys(context.tree, (*HEADER, *SECTIONS), "")
    context.text(context.tree, "title", "")
    units = context.mapping(context.tree.get("units", {}), "units")
    context.unknown_keys(units, ("length", "angle"), "units")
    chosen = {}
    for key, known, default in (("length", LENGTH_UNITS, "mm"), ("angle", ANGLE_UNITS, "deg")):
        chosen[key] = context.text(units, key, "units", default)
        if chosen[key] not in known:
            context.fault(f"units.{key}", f"unknown unit '{chosen[key]}'; one of {', '.join(known)} is wanted")
            chosen[key] = default
    context.units = Units(**chosen)
