"""From a JSON tree to a document: every fault is found, named and located; nothing is guessed.

`read_document` is the only maker of documents. It evaluates all expressions on the way and remembers the number behind
each place of the tree. What stands where: `read_parameters`, `read_parts`, `read_joints`, `read_study`; here the whole,
and the sub-assemblies, whose uses are put into the flat form.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any

from ..errors import DocumentError, Fault, suggestion
from ..kinds import Units
from .assemblies import Content, Pose, placed
from .copies import said
from .expressions import ExpressionError
from .fields import IDS, MAX_ITEMS, MISSING, kind_of
from .model import MOST_EFFORT, Document, Group, Parameter, Program, Tree, Use, Value
from .read_joints import ReadJoint
from .read_parts import ReadPart
from .read_study import StudyFields
from .repeats import Repeat, repeated
from .sections import INSIDE, REPEAT, SECTIONS, USE, keys_of
from .touching import idle_contacts
from .units import ANGLE_UNITS, LENGTH_UNITS, Quantity

VERSION = 1
HEADER = ("anakinema", "title", "units")
"""What a document says before its sections."""
MOST_PLACED = 2 * MAX_ITEMS
"""Parts that uses may put anywhere, in definitions too: doubled again and again, a small file would hold millions."""
MOST_REPEATED, MOST_DEEP = 2001, 64
"""Copies that a repeat makes, and sub-assemblies within sub-assemblies."""


def read_document(tree: Tree, before: Document | None = None) -> Document:
    """The document that a JSON tree describes.

    Raises `DocumentError` with every fault found. Unknown keys are kept and told in `Document.warnings`. Parts whose
    tree is the very object that it was in the document `before`, and whose parameters are worth the same, are taken
    from it.
    """
    return _DocumentReader(tree, before).document()


@dataclass(frozen=True)
class ReadDefinition:
    """A sub-assembly as it was read by itself: the content, the numbers behind its places, the warnings, the parameters
    of the document that it uses."""

    content: Content
    values: Mapping[str, Value]
    warnings: tuple[Fault, ...]
    used: frozenset[str]
    parameters: Mapping[str, Parameter] = field(default_factory=dict)
    depth: int = 0
    """How deep others are used within it."""


@dataclass
class _Library:
    """The definitions of a document, read as they are wanted."""

    trees: Mapping[str, Any]
    quantities: Mapping[str, Quantity] = field(default_factory=dict)
    units: Units = field(default_factory=Units)
    broken: frozenset[str] = frozenset()
    programs: Mapping[str, Program] = field(default_factory=dict)
    known: Mapping[str, ReadDefinition] = field(default_factory=dict)
    """Those of the document before, as far as they are still the same."""
    read: dict[str, ReadDefinition] = field(default_factory=dict)
    faults: list[Fault] = field(default_factory=list)
    wrong: set[str] = field(default_factory=set)
    """Those that have faults of their own, which are told at their own places."""
    placed: int = 0
    """Parts put somewhere so far, those of definitions within others again and again."""
    full: bool = False
    open: list[str] = field(default_factory=list)
    """Those that are being read, each within the one before."""

    def wanted(self, name: str) -> Content:
        """The content of a definition by itself."""
        if name not in self.read:
            self.read[name] = self.known.get(name) or self._fresh(name)
        return self.read[name].content

    def _fresh(self, name: str) -> ReadDefinition:
        reader = self.reader(name)
        content = reader.content({})
        self.faults += reader.faults
        if reader.faults or reader.inner & self.wrong:
            self.wrong.add(name)
        used = reader.used | {word for inner in reader.inner for word in self.read[inner].used}
        depth = 1 + max((self.read[inner].depth for inner in reader.inner), default=0)
        return ReadDefinition(content, reader.values, tuple(reader.warnings), frozenset(used), reader.own, depth)

    def reader(self, name: str) -> "_Reader":
        """A reader of a definition, which sees the document's parameters."""
        reader = _Reader(self.trees[name], f"assemblies.{name}.", self)
        reader.units, reader.quantities, reader.broken = self.units, dict(self.quantities), set(self.broken)
        reader.programs = dict(self.programs)
        return reader


class _Reader(StudyFields):
    """Reads parts with what holds them together: those of the document, or of a definition."""

    def __init__(self, tree: Any, at: str, library: _Library):
        super().__init__(tree, at)
        self.library = library
        self.inside: list[Content] = []
        self.inner: set[str] = set()
        """The definitions that are used here."""
        self.uses: dict[str, Use] = {}
        self.own: Mapping[str, Parameter] = {}
        """The parameters of a definition."""

    def content(self, replaced: Mapping[str, Quantity]) -> Content:
        """What a definition holds, its parameters worth what its use says."""
        name = self.at.split(".")[1]
        self.tree = self.mapping(self.tree, self.at[:-1])
        self.library.open.append(name)
        self.unknown_keys(self.tree, (*INSIDE, "label", "note"), self.at[:-1])
        self.own = self.parameters(replaced)
        self.all_parts({}, set())
        groups = self.holding({}, set())
        traces = self.section("traces", self.trace) | {
            name: trace for content in self.inside for name, trace in content.traces.items()
        }
        self.library.open.pop()
        return Content(self.parts, self.joints, self.couplings, groups, traces, self.uses, self.contacts)

    def all_parts(self, known: Mapping[str, ReadPart], changed: set[str]) -> dict[str, Any]:
        """The parts; the parameters that reading them used add up."""
        used = set(self.used)
        found = super().all_parts(known, changed)
        for key, item in self.part_trees.items():
            if isinstance(item, Mapping) and "repeat" in item:
                self.repeat(key, item, f"{self.at}parts.{key}")
        self.used |= used | {word for part in self.read.values() for word in part.used}
        return found

    def holding(self, known: Mapping[str, ReadJoint], changed: set[str]) -> dict[str, Group]:
        """Groups, then joints; what the sub-assemblies bring comes first."""
        groups: dict[str, Group] = {}
        for content in self.inside:
            groups |= content.groups
            self.joints |= content.joints
            self.couplings |= content.couplings
            self.tied_parts |= {name: coupling.type for name, coupling in content.couplings.items()}
            self.contacts |= content.contacts
            self.touching |= content.contacts.keys()
        for name, group in self.section("groups", self.group).items():
            joined = dict.fromkeys(group.parts)
            for other, inner in list(groups.items()):
                if joined.keys() & set(inner.parts):  # a rigid body of a sub-assembly becomes part of it
                    joined |= dict.fromkeys(inner.parts)
                    del groups[other]
            groups[name] = replace(group, parts=tuple(joined))
        self.parts, self.groups = self.grounded(groups), groups
        self.all_joints(known, changed)
        self.wear_cams()
        return groups

    # -- sub-assemblies ----------------------------------------------------------------------------------------

    def assembled(self, key: str, line: list[str], place: str) -> bool:
        """Takes in the parts of a sub-assembly, where the entry places one."""
        item = said(self.part_trees, line) if len(line) > 1 else self.mapping(self.part_trees[key], place)
        if "repeat" in item:  # what it repeats is read first
            if len(line) > 1:
                self.fault(f"{place}.of", f"'{line[1]}' repeats a part and can't be copied; repeat the part again")
            return True
        if "assembly" not in item:
            return False
        name, trees = item["assembly"], self.library.trees
        if not isinstance(name, str) or name not in trees:
            self.fault(f"{place}.assembly", f"there is no sub-assembly '{name}'{suggestion(str(name), list(trees))}")
            return True
        if name in self.library.open:
            circle = " → ".join([*self.library.open[self.library.open.index(name):], name])
            self.fault(f"{place}.assembly", f"a sub-assembly can't hold itself: {circle}")
            return True
        self.unknown_keys(item, (*keys_of(USE), "of"), place)
        deep = f"sub-assemblies are nested more than {MOST_DEEP} deep; place what is inside directly"
        if len(self.library.open) >= MOST_DEEP:
            self.fault(f"{place}.assembly", deep)
            return True
        use = self.use(key, item, place)
        content = self.library.wanted(name)
        if self.library.read[name].depth >= MOST_DEEP:
            self.fault(f"{place}.assembly", deep)
            return True
        self.inner.add(name)
        self.library.placed += len(content.parts)
        if len(self.parts) + len(content.parts) > MAX_ITEMS or self.library.placed > MOST_PLACED:
            if not self.library.full:  # one word is enough: all that holds it is too large as well
                self.fault(place, f"with this sub-assembly there would be more than {MAX_ITEMS} parts")
            self.library.full = True
            return True
        own = self.library.read[name].parameters
        if replaced := self.replaced(item, name, place):
            use = replace(use, parameters=MappingProxyType(replaced))
            if (other := self.with_other_numbers(name, replaced, place)) is not None:
                content, own = other
        use = replace(use, scope=MappingProxyType({key: each.quantity for key, each in own.items()}))
        poses = self.own_poses(item, content, place)
        put = placed(content, use, poses)
        if use.fixed and put.parts and not any(part.fixed for part in put.parts.values()):
            text = f"nothing in '{name}' is fixed, so this fixes nothing; fix a part there, or freeze this"
            self.warnings.append(Fault(f"{place}.fixed", text))
        self.inside.append(put)
        self.parts |= put.parts
        self.uses |= put.uses
        return True

    def repeat(self, key: str, item: Mapping[str, Any], place: str) -> None:
        """Takes in the parts that a repeat makes, and the pins between them."""
        self.unknown_keys(item, keys_of(REPEAT), place)
        base = self.parts.get(item["repeat"]) if isinstance(item["repeat"], str) else None
        given = self.required(item, "count", place)
        if given is MISSING:
            return
        count = self.number(given, "number", f"{place}.count")
        if math.isnan(count):
            return
        if abs(count - round(count)) > 1e-9 or not 1 <= count <= MOST_REPEATED:
            text = f"a whole number from 1 to {MOST_REPEATED} is wanted, it is {count:.6g}"
            self.fault(f"{place}.count", text)
            return
        ways = [word for word in ("pitch", "center", "strand") if word in item]
        if len(ways) != 1:
            self.fault(place, "give one of 'pitch' (a row), 'center' (around it), 'strand' (links, each on the last)")
            return
        if "over" in item and ways != ["center"]:
            self.fault(f"{place}.over", "is for a repeat around a center")
        pitch = self.pair(item["pitch"], "length", f"{place}.pitch") if "pitch" in item else (0.0, 0.0)
        center = self.pair(item["center"], "length", f"{place}.center") if "center" in item else None
        over = self.optional(item, "over", "angle", place)
        strand = self.flag(item, "strand", place)
        if base is None:
            others = [each for each in self.parts if "/" not in each]
            inside = self.parts_named(item["repeat"])
            near = "is a sub-assembly; only parts are repeated" if inside else "is no part" + suggestion(
                str(item["repeat"]), others)
            self.fault(f"{place}.repeat", f"'{item['repeat']}' {near}")
            return
        if strand and len(base.points) < 2:
            self.fault(f"{place}.strand", f"'{base.id}' needs two points: one to hang by and one to carry the next")
            return
        if len(self.parts) + count > MAX_ITEMS:
            self.fault(place, f"with these there would be more than {MAX_ITEMS} parts")
            return
        how = Repeat(base.id, round(count), complex(*pitch), None if center is None else complex(*center),
                     2 * math.pi if over is None else over, strand)  # fmt: skip
        use = Use(key, "", label=self.text(item, "label", place), note=self.text(item, "note", place), of=base.id,
                  count=how.count)  # fmt: skip
        content = repeated(base, use, how)
        self.inside.append(content)
        self.parts |= content.parts
        self.uses |= content.uses

    def use(self, key: str, item: Mapping[str, Any], place: str) -> Use:
        """How a sub-assembly is placed."""
        return Use(
            id=key,
            assembly=item["assembly"],
            pose=self.pose(item["pose"], f"{place}.pose") if "pose" in item else (0.0, 0.0, 0.0),
            lift=self.optional(item, "lift", "length", place) or 0.0,
            mirror=self.flag(item, "mirror", place),
            frozen=self.flag(item, "frozen", place),
            fixed=self.flag(item, "fixed", place),
            label=self.text(item, "label", place),
            note=self.text(item, "note", place),
        )

    def replaced(self, item: Mapping[str, Any], name: str, place: str) -> dict[str, Quantity]:
        """What a use says of the definition's parameters."""
        own = self.library.trees[name].get("parameters", {}) if isinstance(self.library.trees[name], Mapping) else {}
        found = {}
        for key, value in self.mapping(item.get("parameters", {}), f"{place}.parameters").items():
            where = f"{place}.parameters.{key}"
            if key not in own:
                self.fault(where, f"'{name}' has no parameter '{key}'{suggestion(key, list(own))}")
                continue
            try:
                found[key] = self.quantity(value)
            except ExpressionError as error:
                self.fault(where, str(error))
        return found

    def with_other_numbers(
        self, name: str, replaced: Mapping[str, Quantity], place: str
    ) -> tuple[Content, Mapping[str, Parameter]] | None:
        """The content of a definition with other numbers, and its parameters; None where they make no sense."""
        reader = self.library.reader(name)
        content = reader.content(replaced)
        if not reader.faults:
            return content, reader.own
        if name not in self.library.wrong:
            texts = [f"{fault.place.removeprefix(reader.at)}: {fault.text}" for fault in reader.faults]
            self.fault(f"{place}.parameters", f"with these numbers '{name}' makes no sense: {texts[0]}")
        return None

    def own_poses(self, item: Mapping[str, Any], content: Content, place: str) -> dict[str, Pose]:
        """Where parts stand roughly in this use, in its own axes."""
        found = {}
        for name, value in self.mapping(item.get("poses", {}), f"{place}.poses").items():
            where = f"{place}.poses.{name}"
            if not IDS.match(name) or name not in content.parts:
                text = f"'{item['assembly']}' has no part '{name}'{suggestion(name, list(content.parts))}"
                self.fault(where, text)
                continue
            found[name] = self.pose(value, where)
        return found


class _DocumentReader(_Reader):
    def __init__(self, tree: Tree, before: Document | None):
        definitions = tree.get("assemblies") if isinstance(tree, Mapping) else None
        super().__init__(tree, "", _Library(definitions if isinstance(definitions, Mapping) else {}))
        if before is not None:
            self.before = before

    def document(self) -> Document:
        """The document. Raises `DocumentError`."""
        if not isinstance(self.tree, Mapping):
            raise DocumentError([Fault("", f"the file holds {kind_of(self.tree)}; an object is wanted")])
        self.header()
        parameters = self.parameters()
        self.programs = self.section("programs", self.program)
        known, changed = self.kept(parameters)
        self.definitions(changed)
        self.all_parts(known, changed)
        groups = self.holding(self.before.read_joints if known and self.before is not None else {}, changed)
        if self.before is not None and known and self.speaks_of_the_same(self.before):
            self.known_study, self.changed = self.before.read_study, changed
        self.drivers = self.section("drivers", self.driver)
        self.driven_together()
        self.traces = self.keeping("traces", self.trace) | {
            name: trace for content in self.inside for name, trace in content.traces.items()
        }
        self.measures = self.keeping("measures", self.measure)
        self.measures_of_each_other()
        checks = self.keeping("checks", self.check)
        self.bounds_of_each_other(checks)
        tracks = {key: one for key, one in self.keeping("tracks", self.track).items() if one is not None}
        pairs = self.keeping("pairs", self.said_of_pair)
        positions = self.keeping("positions", self.position)
        for number, row in enumerate(self.listing(self.tree.get("trials", []), "trials")):
            self.mapping(row, f"trials.{number}")
        materials = self.section("materials", self.material)
        shown = self.tree.get("picture")
        picture = self.picture(self.mapping(shown, "picture"), "picture") if shown is not None else None
        self.outlines_within_reason()
        self.warnings += idle_contacts(self.parts, self.joints, self.groups, self.contacts) if not self.faults else ()
        if self.faults:
            raise DocumentError(self.faults)
        proxy = MappingProxyType
        return Document(
            tree=self.tree,
            title=str(self.tree.get("title", "")),
            units=self.units,
            parameters=proxy(parameters),
            parts=proxy(self.parts),
            joints=proxy(self.joints),
            couplings=proxy(self.couplings),
            contacts=proxy(self.contacts),
            programs=proxy(self.programs),
            drivers=proxy(self.drivers),
            traces=proxy(self.traces),
            checks=proxy(checks),
            pairs=proxy(pairs),
            groups=proxy(groups),
            uses=proxy(self.uses),
            measures=proxy(self.measures),
            tracks=proxy(tracks),
            positions=proxy(positions),
            picture=picture,
            materials=proxy(materials),
            values=proxy(self.values),
            warnings=tuple(self.warnings),
            read=proxy(self.read),
            read_joints=proxy(self.read_joints),
            read_study=proxy(self.read_study),
            definitions=proxy(self.library.read),
        )

    def material(self, key: str, item: Mapping[str, Any], place: str) -> float:
        """The density of a material."""
        self.unknown_keys(item, SECTIONS["materials"].keys, place)
        return self.above_zero(self.required(item, "density", place), "number", f"{place}.density")

    def outlines_within_reason(self) -> None:
        """Refuses outlines that would take too long to join, at the part with which they do; equal ones count once."""
        total, seen = 0, set()
        for name, part in self.parts.items() if not self.faults else ():
            if part.shapes and id(part.shapes) not in seen:
                seen.add(id(part.shapes))
                total += part.effort
            if total > MOST_EFFORT:
                text = ("joining these outlines would take too long: they have too many lines and arcs, which meet in "
                        "too many places or at too many depths; draw them simpler, without what no clearance needs")
                self.fault(f"parts.{name}.shapes", text)  # fmt: skip
                return

    def speaks_of_the_same(self, before: Document) -> bool:
        """Whether what can be named is what it was before, whatever it is worth."""
        named = ("assemblies", "parts", "groups", "joints", "drivers", "traces", "measures")
        return (
            all(self.tree.get(each) is before.tree.get(each) for each in named)
            and self.parts.keys() == before.parts.keys() and self.joints.keys() == before.joints.keys()
        )  # fmt: skip

    def header(self) -> None:
        """Version, title, units."""
        if "anakinema" not in self.tree:
            raise DocumentError([Fault("", "not an Anakinema document: the key 'anakinema' is missing")])
        version = self.tree["anakinema"]
        if version != VERSION or isinstance(version, bool):
            text = f"version {version!r} is not known to this program, which reads version {VERSION}"
            raise DocumentError([Fault("anakinema", text)])
        self.unknown_keys(self.tree, (*HEADER, *SECTIONS), "")
        self.text(self.tree, "title", "")
        units = self.mapping(self.tree.get("units", {}), "units")
        self.unknown_keys(units, ("length", "angle"), "units")
        chosen = {}
        for key, known, default in (("length", LENGTH_UNITS, "mm"), ("angle", ANGLE_UNITS, "deg")):
            chosen[key] = self.text(units, key, "units", default)
            if chosen[key] not in known:
                self.fault(f"units.{key}", f"unknown unit '{chosen[key]}'; one of {', '.join(known)} is wanted")
                chosen[key] = default
        self.units = Units(**chosen)

    def kept(self, parameters: Mapping[str, Parameter]) -> tuple[Mapping[str, ReadPart], set[str]]:
        """The parts that were read before, and the parameters that are worth something else now."""
        if self.before is None or self.before.units != self.units:
            return {}, set()
        old = self.before.parameters
        changed = {
            key
            for key in old.keys() | parameters.keys()
            if key not in old or key not in parameters or old[key].quantity != parameters[key].quantity
        }
        same = self.before.tree.get("assemblies") is self.tree.get("assemblies")
        same = same and self.before.programs == self.programs  # cams follow them
        if same:
            self.library.known = {
                name: kept for name, kept in self.before.definitions.items() if not kept.used & changed
            }
        return self.before.read, changed

    def definitions(self, changed: set[str]) -> None:
        """Reads all sub-assemblies, whether they are used or not."""
        library = self.library
        library.units, library.quantities, library.broken = self.units, self.quantities, frozenset(self.broken)
        library.programs = self.programs

        def read(name: str, _: Mapping[str, Any], place: str) -> None:
            library.wanted(name)

        self.section("assemblies", read)
        for kept in library.read.values():
            self.values |= kept.values
            self.warnings += kept.warnings
        self.faults += library.faults
