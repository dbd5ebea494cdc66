"""Reading sub-assemblies: their definitions, and their uses, which are put into the flat form; and what a document and
a definition have in common, parts with what holds them together."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any

from ..errors import Fault, suggestion
from .assemblies import Content, Pose, placed
from .copies import lineage, said
from .expressions import ExpressionError
from .model import Group, Joint, Parameter, Part, Trace, Use
from .read_cams import wear_cams
from .read_context import IDS, MAX_ITEMS, Cached, ReadContext
from .read_hardware import fit_hardware
from .read_joints import read_joints, read_trace
from .read_parameters import read_parameters
from .read_parts import grounded, read_groups, read_parts, read_pose
from .read_repeats import read_repeat
from .sections import INSIDE, USE, keys_of
from .units import Quantity

MOST_PLACED = 2 * MAX_ITEMS
"""Parts that uses may put anywhere, in definitions too: doubled again and again, a small file would hold millions."""
MOST_DEEP = 64
"""Sub-assemblies within sub-assemblies."""


@dataclass(frozen=True)
class Definition:
    """A sub-assembly by itself: its content, its parameters, and how deep others are used within it."""

    content: Content
    parameters: Mapping[str, Parameter] = field(default_factory=dict)
    depth: int = 0


@dataclass
class Library:
    """The definitions of a document, read as they are wanted."""

    context: ReadContext
    """That of the document: definitions see its units, parameters and programs."""
    trees: Mapping[str, Any]
    known: Mapping[str, Cached[Definition]] = field(default_factory=dict)
    """Those of the document before, as far as they are still the same."""
    read: dict[str, Cached[Definition]] = field(default_factory=dict)
    faults: list[Fault] = field(default_factory=list)
    wrong: set[str] = field(default_factory=set)
    """Those that have faults of their own, which are told at their own places."""
    placed: int = 0
    """Parts put somewhere so far, those of definitions within others again and again."""
    full: bool = False
    open: list[str] = field(default_factory=list)
    """Those that are being read, each within the one before."""

    @classmethod
    def of(cls, context: ReadContext) -> "Library":
        """That of a document."""
        trees = context.tree.get("assemblies")
        return cls(context, trees if isinstance(trees, Mapping) else {})

    def wanted(self, name: str) -> Definition:
        """A definition by itself."""
        if name not in self.read:
            self.read[name] = self.known.get(name) or self._fresh(name)
        return self.read[name].entry

    def all(self) -> None:
        """Reads all definitions, whether they are used or not."""
        self.context.section("assemblies", lambda name, item, place: self.wanted(name))
        for kept in self.read.values():
            self.context.take(kept)
        self.context.faults += self.faults

    def _fresh(self, name: str) -> Cached[Definition]:
        context, inner, found = self.by_itself(name, {})
        self.faults += context.faults
        if context.faults or inner & self.wrong:
            self.wrong.add(name)
        used = context.used.union(*(self.read[each].used for each in inner))
        return Cached((self.trees[name],), found, context.values, tuple(context.warnings), frozenset(used))

    def by_itself(
        self, name: str, replaced: Mapping[str, Quantity]
    ) -> tuple[ReadContext, set[str], Definition]:
        """A definition, its parameters worth what its use says, with what was found on the way, and the definitions
        that it uses."""
        outer = self.context
        context = ReadContext(
            self.trees[name], f"assemblies.{name}.", units=outer.units, quantities=dict(outer.quantities),
            broken=set(outer.broken), programs=dict(outer.programs),
        )  # fmt: skip
        context.tree = context.mapping(context.tree, context.at[:-1])
        self.open.append(name)
        context.unknown_keys(context.tree, (*INSIDE, "label", "note"), context.at[:-1])
        assembly = Assembly(self)
        own = read_parameters(context, replaced)
        read_all_parts(context, assembly, {}, set())
        read_joined(context, assembly, {}, set())
        traces = context.section("traces", lambda *entry: read_trace(context, *entry)) | assembly.traces
        self.open.pop()
        content = Content(context.parts, context.joints, context.couplings, context.groups, traces, context.uses,
                          context.contacts)  # fmt: skip
        depth = 1 + max((self.read[each].entry.depth for each in assembly.inner), default=0)
        return context, assembly.inner, Definition(content, own, depth)


@dataclass
class Assembly:
    """What sub-assemblies and repeats bring into what is read: the document, or a definition."""

    library: Library
    inside: list[Content] = field(default_factory=list)
    inner: set[str] = field(default_factory=set)
    """The definitions that are used."""

    def take(self, context: ReadContext, content: Content) -> None:
        """Takes in what one of them brings."""
        self.inside.append(content)
        context.parts |= content.parts
        context.uses |= content.uses

    @property
    def traces(self) -> dict[str, Trace]:
        """The traces that they bring."""
        return {name: trace for content in self.inside for name, trace in content.traces.items()}


def read_all_parts(
    context: ReadContext, assembly: Assembly, known: Mapping[str, Cached[Part]], changed: set[str]
) -> None:
    """Reads the parts, those of sub-assemblies and repeats too; the parameters that reading them used add up."""
    used = set(context.used)
    read_parts(context, known, changed, lambda key, line, place: _assembled(context, assembly, key, line, place))
    fit_hardware(context, {key: said(context.part_trees, lineage(context.part_trees, key)[0])["hardware"]
                           for key, part in context.parts.items() if part.hardware is not None and "/" not in key})
    for key, item in context.part_trees.items():
        if isinstance(item, Mapping) and "repeat" in item:
            content = read_repeat(context, key, item, f"{context.at}parts.{key}")
            if content is not None:
                assembly.take(context, content)
    context.used |= used.union(*(part.used for part in context.part_cache.values()))


def read_joined(
    context: ReadContext, assembly: Assembly, known: Mapping[str, Cached[Joint | None]], changed: set[str]
) -> None:
    """Reads groups, then joints; what the sub-assemblies bring comes first."""
    groups: dict[str, Group] = {}
    for content in assembly.inside:
        groups |= content.groups
        context.joints |= content.joints
        context.couplings |= content.couplings
        context.tied |= {name: coupling.type for name, coupling in content.couplings.items()}
        context.contacts |= content.contacts
        context.touching |= content.contacts.keys()
    for name, group in read_groups(context).items():
        joined = dict.fromkeys(group.parts)
        for other, inner in list(groups.items()):
            if joined.keys() & set(inner.parts):  # a rigid body of a sub-assembly becomes part of it
                joined |= dict.fromkeys(inner.parts)
                del groups[other]
        groups[name] = replace(group, parts=tuple(joined))
    context.parts, context.groups = grounded(context, groups), groups
    read_joints(context, known, changed)
    wear_cams(context)


def _assembled(context: ReadContext, assembly: Assembly, key: str, line: list[str], place: str) -> bool:
    """Takes in the parts of a sub-assembly, where the entry places one."""
    item = said(context.part_trees, line) if len(line) > 1 else context.mapping(context.part_trees[key], place)
    if "repeat" in item:  # what it repeats is read first
        if len(line) > 1:
            context.fault(f"{place}.of", f"'{line[1]}' repeats a part and can't be copied; repeat the part again")
        return True
    if "assembly" not in item:
        return False
    context.unknown_keys(item, (*keys_of(USE), "of"), place)
    definition = _wanted(context, assembly, item["assembly"], place)
    if definition is not None:
        _place(context, assembly, _use(context, key, item, place), definition, item, place)
    return True


def _wanted(context: ReadContext, assembly: Assembly, name: Any, place: str) -> Definition | None:
    """The definition that a use names; None after a fault."""
    library, where = assembly.library, f"{place}.assembly"
    deep = f"sub-assemblies are nested more than {MOST_DEEP} deep; place what is inside directly"
    if not isinstance(name, str) or name not in library.trees:
        context.fault(where, f"there is no sub-assembly '{name}'{suggestion(str(name), list(library.trees))}")
        return None
    if name in library.open:
        circle = " → ".join([*library.open[library.open.index(name):], name])
        context.fault(where, f"a sub-assembly can't hold itself: {circle}")
        return None
    if len(library.open) >= MOST_DEEP or library.wanted(name).depth >= MOST_DEEP:
        context.fault(where, deep)
        return None
    assembly.inner.add(name)
    found = library.wanted(name)
    library.placed += len(found.content.parts)
    if len(context.parts) + len(found.content.parts) > MAX_ITEMS or library.placed > MOST_PLACED:
        if not library.full:  # one word is enough: all that holds it is too large as well
            context.fault(place, f"with this sub-assembly there would be more than {MAX_ITEMS} parts")
        library.full = True
        return None
    return found


def _place(
    context: ReadContext, assembly: Assembly, use: Use, definition: Definition, item: Mapping[str, Any], place: str
) -> None:
    """Takes in the parts of a definition, where a use puts them."""
    if replaced := _replaced(context, assembly, item, use.assembly, place):
        use = replace(use, parameters=MappingProxyType(replaced))
        definition = _with_other_numbers(context, assembly, use.assembly, replaced, place) or definition
    scope = {key: each.quantity for key, each in definition.parameters.items()}
    use = replace(use, scope=MappingProxyType(scope))
    put = placed(definition.content, use, _own_poses(context, item, definition.content, place))
    if use.fixed and put.parts and not any(part.fixed for part in put.parts.values()):
        text = f"nothing in '{use.assembly}' is fixed, so this fixes nothing; fix a part there, or freeze this"
        context.warnings.append(Fault(f"{place}.fixed", text))
    assembly.take(context, put)


def _use(context: ReadContext, key: str, item: Mapping[str, Any], place: str) -> Use:
    """How a sub-assembly is placed."""
    return Use(
        id=key,
        assembly=item["assembly"],
        pose=read_pose(context, item["pose"], f"{place}.pose") if "pose" in item else (0.0, 0.0, 0.0),
        lift=context.optional(item, "lift", "length", place) or 0.0,
        mirror=context.flag(item, "mirror", place),
        frozen=context.flag(item, "frozen", place),
        fixed=context.flag(item, "fixed", place),
        label=context.text(item, "label", place),
        note=context.text(item, "note", place),
    )


def _replaced(
    context: ReadContext, assembly: Assembly, item: Mapping[str, Any], name: str, place: str
) -> dict[str, Quantity]:
    """What a use says of the definition's parameters."""
    tree = assembly.library.trees[name]
    own = tree.get("parameters", {}) if isinstance(tree, Mapping) else {}
    found = {}
    for key, value in context.mapping(item.get("parameters", {}), f"{place}.parameters").items():
        where = f"{place}.parameters.{key}"
        if key not in own:
            context.fault(where, f"'{name}' has no parameter '{key}'{suggestion(key, list(own))}")
            continue
        try:
            found[key] = context.quantity(value)
        except ExpressionError as error:
            context.fault(where, str(error))
    return found


def _with_other_numbers(
    context: ReadContext, assembly: Assembly, name: str, replaced: Mapping[str, Quantity], place: str
) -> Definition | None:
    """A definition with other numbers; None where they make no sense."""
    inside, _, found = assembly.library.by_itself(name, replaced)
    if not inside.faults:
        return found
    if name not in assembly.library.wrong:
        texts = [f"{fault.place.removeprefix(inside.at)}: {fault.text}" for fault in inside.faults]
        context.fault(f"{place}.parameters", f"with these numbers '{name}' makes no sense: {texts[0]}")
    return None


def _own_poses(context: ReadContext, item: Mapping[str, Any], content: Content, place: str) -> dict[str, Pose]:
    """Where parts stand roughly in this use, in its own axes."""
    found = {}
    for name, value in context.mapping(item.get("poses", {}), f"{place}.poses").items():
        where = f"{place}.poses.{name}"
        if not IDS.match(name) or name not in content.parts:
            text = f"'{item['assembly']}' has no part '{name}'{suggestion(name, list(content.parts))}"
            context.fault(where, text)
            continue
        found[name] = read_pose(context, value, where)
    return found
