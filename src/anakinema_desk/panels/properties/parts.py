"""The cards of a part, of a sub-assembly in its place and of its definition, of a group."""

import math
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QToolButton, QWidget

from anakinema.document.model import Document
from anakinema.findings.moments import part_now, point_now
from anakinema.formatting import in_document_units, shown
from anakinema.geometry.shapes import Shape, shape_kinds
from anakinema.kinds import Dimension
from anakinema.kinematics.masses import mass_of
from anakinema.materials import DENSITIES

from ...theme.choices import Choice
from ...theme.labels import Label, tip
from ...theme.tokens import COLOURS
from .hardware import hardware
from .stack import depth

if TYPE_CHECKING:
    from ...session import Place
    from .properties import Properties

SHAPE_KINDS = shape_kinds()
MOST_JOINTS = 40
"""Joints of a sub-assembly that its card lists."""


def part(properties: "Properties", document: Document, name: str) -> None:
    """What it is called and looks like, how it may move, its points, placement, depth and shapes."""
    part, place, entry = document.parts[name], document.home("parts", name), document.entry("parts", name)
    properties.heading("PART", part.label or str(place[-1]), "", place)
    whose(properties, document, name)
    if part.hardware is not None:
        hardware(properties, document, name)
        material(properties, document, name)
        look(properties, place)
        return
    properties.switch("Fixed", (*place, "fixed"), "A fixed part stays at its pose exactly")
    if part.of:
        properties.note(f"A copy of {part.of}: what is changed there changes here too.")
        properties.button(f"Show {part.of}", lambda: properties.session.selection.select(f"parts.{part.of}"))
    if not part.fixed:
        grid = properties.section("MOTIONS LEFT, drivers off")
        properties.description(grid, "here", lambda: freedoms_text(properties, name))
        grid = properties.section("NOW")
        for number, label in enumerate(("turned by", "turns at", "angular acceleration")):
            properties.description(grid, label, partial(turn_text, properties, name, number))
        others = [other for other in document.parts if other != name]
        if others:
            centre(properties, name, others)
    own = list(entry.get("points", {}))
    if own:
        some = properties.paged("points", len(own))
        grid = properties.section("POINTS, in the part's own frame")
        for point in own[some.start : some.stop]:
            properties.pair(grid, point, (*place, "points", point))
    if "pose" in entry:
        grid = properties.section("PLACED AT" if part.fixed else "PLACED ROUGHLY AT")
        for i, label in enumerate(("x", "y", "angle")):
            properties.field(grid, label, (*place, "pose", i))
    depth(properties, document, name)
    if part.shapes:
        material(properties, document, name)
    shapes = entry.get("shapes", [])
    for i in properties.paged("shapes", len(shapes)):
        shape = shapes[i]
        grid = properties.section(f"{'CUT: ' if shape.get('cut') else ''}{form_of(shape).title.upper()}")
        shape_fields(properties, grid, (*place, "shapes", i), shape)
    look(properties, place)


def look(properties: "Properties", place: "Place") -> None:
    """What it is called and how it looks."""
    grid = properties.section("LOOK")
    properties.text(grid, "label", (*place, "label"), "What to call it on screen in place of its name")
    properties.text(grid, "note", (*place, "note"))
    colours(properties, place)


def material(properties: "Properties", document: Document, name: str) -> None:
    """What it is made of, and what that makes it weigh."""
    place = (*document.home("parts", name), "item")
    grid = properties.section("MATERIAL")
    known = sorted({*DENSITIES, *document.materials, document.parts[name].item.material} - {""})
    properties.choice(grid, "made of", (*place, "material"), ("", *known))
    properties.field(grid, "density", (*place, "density"), optional=True,
                     hint="In kg/m³, where it is not that of the material")  # fmt: skip
    for label, number in (("mass", 0), ("centre", 1), ("inertia", 2)):
        properties.description(grid, label, partial(mass_text, properties, name, number))


def mass_text(properties: "Properties", name: str, number: int) -> str:
    """Mass, its centre in the part's own axes, or the moment of inertia about that."""
    document = properties.session.document
    if document is None or name not in document.parts:
        return "–"
    found, unit = mass_of(document, document.parts[name]), document.units.length
    if found is None:
        return "not known" if not number else "–"
    x, y = (f"{0.0 if abs(value) < 5e-4 else value:.3f}".rstrip("0").rstrip(".")
            for value in (found.center.real, found.center.imag))  # fmt: skip
    return (f"{found.mass:.4g} kg", f"{x}, {y} {unit}", f"{found.inertia:.4g} kg·{unit}²")[number]


def whose(properties: "Properties", document: Document, name: str) -> None:
    """Says of what stands in a sub-assembly whose it is."""
    use = name.rpartition("/")[0]
    if use and document.uses[use].of:
        one = document.uses[use]
        properties.note(f"One of {one.count} that {use} makes of {one.of}: what is changed here changes in all.")
        properties.button(f"Show {use}", lambda: properties.session.selection.select(f"uses.{use}"))
    elif use:
        count = sum(one.assembly == document.uses[use].assembly for one in document.uses.values())
        reach = f"; it stands {count} times here, and a change reaches them all" if count > 1 else ""
        turned = " It is turned over: angles count the other way than in the definition." * document.is_mirrored(name)
        properties.note(f"Of the sub-assembly {use} ({document.uses[use].assembly}){reach}.{turned}")
        properties.button(f"Show {use}", lambda: properties.session.selection.select(f"uses.{use}"))


def centre(properties: "Properties", name: str, others: list[str]) -> None:
    """The point about which it turns against another part."""
    grid = properties.section("INSTANTANEOUS CENTRE, as driven")
    against = Choice()
    against.addItems(others)
    against.setAccessibleName("against which part")
    against.currentTextChanged.connect(lambda _: properties.refresh_live())
    grid.addWidget(Label("against"), 0, 0)
    grid.addWidget(against, 0, 1)
    properties.description(grid, "lies at", lambda: center_text(properties, name, against.currentText()))


def center_text(properties: "Properties", name: str, other: str) -> str:
    """Where that point lies."""
    session, document = properties.session, properties.session.document
    center = session.posing.instant_center(name, other)
    if document is None or session.motion is None or session.posing.posed is not None or not other:
        return "–"
    if center is None:
        return "at infinity: it translates" if session.posing.slides(name, other) else "none: it does not move"
    return f"({', '.join(shown(value, 'number', document.units, 2) for value in (center.real, center.imag))})"


def turn_text(properties: "Properties", name: str, which: int) -> str:
    """The angle of a part, or its first or second derivative, where the play head is."""
    session, document = properties.session, properties.session.document
    motion = session.motion
    if motion is None or document is None or name not in motion.system.bodies:
        return "–"
    if which == 0:
        return shown(session.posing.poses()[name][2], Dimension.ANGLE, document.units, 3)
    if session.posing.posed is not None:
        return "–"
    dimension = Dimension.ANGLE.rate if which == 1 else Dimension.ANGLE.rate.rate
    return shown(part_now(motion, name, session.time)[which], dimension, document.units, 2)


def point_text(properties: "Properties", part: str, own: complex, which: int) -> str:
    """Where a place of a part is, how fast, or its acceleration, where the play head is: along x and y, and in all."""
    session, document = properties.session, properties.session.document
    motion = session.motion
    if motion is None or document is None or part not in motion.system.bodies or session.posing.posed is not None:
        return "–"
    found = point_now(motion, part, own, session.time)[which]
    dimension = (Dimension.LENGTH, Dimension.LENGTH.rate, Dimension.LENGTH.rate.rate)[which]
    pair = f"({', '.join(shown(value, 'number', document.units, 2) for value in _own(found, dimension, document))})"
    return pair if which == 0 else f"{shown(abs(found), dimension, document.units, 2)}  {pair}"


def _own(value: complex, dimension: Dimension, document: Document) -> tuple[float, float]:
    """Along x and y in the document's units."""
    x, y = (in_document_units(each, dimension, document.units) for each in (value.real, value.imag))
    return x, y


def freedoms_text(properties: "Properties", name: str) -> str:
    """The motions that are left to a part."""
    left, document = properties.session.posing.motions_left(name), properties.session.document
    if left is None or document is None:
        return "–"
    if len(left) == 3:
        return "free: it moves in any way"
    motions = []
    for freedom in left:
        if freedom.kind == "slide":
            angle = math.atan2(freedom.direction.imag, freedom.direction.real)
            motions.append(f"slides along {shown(angle, 'angle', document.units, 2)}")
        else:
            center = (freedom.center.real, freedom.center.imag)
            x, y = (shown(value, "number", document.units, 2) for value in center)
            motions.append(f"turns about ({x}, {y})")
    return "\n".join(motions) or "none: its joints hold it"


def form_of(shape: dict[str, Any]) -> type[Shape]:
    """The form that a shape is written in."""
    forms = SHAPE_KINDS[shape["kind"]]
    return next((form for form in forms if form.fields[0].name in shape), forms[-1])


def shape_fields(properties: "Properties", grid: QGridLayout, place: "Place", shape: dict[str, Any]) -> None:
    """The numbers of a shape, by the fields that its kind declares."""
    properties.form(grid, form_of(shape).fields, place, shape)
    if "depth" in shape:
        for i, label in enumerate(("depth from", "depth to")):
            properties.field(grid, label, (*place, "depth", i))


def colours(properties: "Properties", place: "Place") -> None:
    """A row of colours to choose from; the first is that which the part gets by itself."""
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(0, 2, 0, 0)
    layout.setSpacing(3)
    for word, colour in {"as it comes": "", **COLOURS}.items():
        button = QToolButton()
        swatch = QPixmap(14, 14)
        swatch.fill(QColor(colour) if colour else QColor(0, 0, 0, 0))
        button.setIcon(QIcon(swatch))
        button.setIconSize(QSize(14, 14))
        button.setText("" if colour else "–")
        button.setToolTip(tip(f"Colour: {word}"))
        button.setAccessibleName(f"colour {word}")
        button.clicked.connect(lambda _=False, colour=colour: paint(properties, place, colour))
        layout.addWidget(button)
    layout.addStretch(1)
    properties.rows.addWidget(row)


def paint(properties: "Properties", place: "Place", colour: str) -> None:
    """Gives a part a colour, or none of its own."""
    there = (*place, "color")
    if colour:
        properties.session.edit(there, colour, "Change colour")
    else:
        properties.session.remove(there, "Change colour")


# -- sub-assemblies and groups -----------------------------------------------------------------------------------


def use(properties: "Properties", document: Document, name: str) -> None:
    """A sub-assembly in its place: how it stands, and its numbers here."""
    one, place, entry = document.uses[name], document.home("parts", name), document.entry("parts", name)
    if one.of:
        repeat(properties, document, name)
        return
    properties.heading("SUB-ASSEMBLY", one.label or str(place[-1]), f"one of '{one.assembly}'", place)
    whose(properties, document, name)
    properties.switch("Frozen", (*place, "frozen"), "It moves as one rigid body, as it is placed")
    properties.switch("Fixed", (*place, "fixed"), "What is fixed in its definition is fixed here too")
    properties.switch("Turned over", (*place, "mirror"), "As in a mirror along its own x axis")
    properties.button(
        f"Show the definition {one.assembly}", lambda: properties.session.selection.select(f"assemblies.{one.assembly}")
    )
    own = document.tree["assemblies"][one.assembly].get("parameters", {})
    if own:
        grid = properties.section("ITS NUMBERS, empty: as in the definition")
        for parameter in own:
            properties.field(grid, parameter, (*place, "parameters", parameter), optional=True)
    grid = properties.section("PLACED AT")
    for i, label in enumerate(("x", "y", "angle")):
        if "pose" in entry:
            properties.field(grid, label, (*place, "pose", i))
    properties.field(grid, "lift", (*place, "lift"), optional=True)
    limited(properties, document, name)
    grid = properties.section("LOOK")
    properties.text(grid, "label", (*place, "label"))
    properties.text(grid, "note", (*place, "note"))


def repeat(properties: "Properties", document: Document, name: str) -> None:
    """What repeats a part: how often, and how far apart."""
    one, place, entry = document.uses[name], document.home("parts", name), document.entry("parts", name)
    properties.heading("REPEAT", one.label or str(place[-1]), f"makes {one.count} of {one.of}, itself counted", place)
    above = name.rpartition("/")[0]
    base = f"{above}/{one.of}".lstrip("/")
    properties.button(f"Show {base}", lambda: properties.session.selection.select(f"parts.{base}"))
    grid = properties.section("HOW MANY")
    properties.field(grid, "count", (*place, "count"))
    if "pitch" in entry:
        grid = properties.section("EACH FURTHER ON BY")
        properties.pair(grid, "pitch", (*place, "pitch"))
    elif "center" in entry:
        grid = properties.section("AROUND")
        properties.pair(grid, "centre", (*place, "center"))
        properties.field(grid, "over", (*place, "over"), optional=True)
    else:
        properties.note("A strand: each is pinned by its first point to the second point of the one before.")
    limited(properties, document, name)
    grid = properties.section("LOOK")
    properties.text(grid, "label", (*place, "label"))
    properties.text(grid, "note", (*place, "note"))


def limited(properties: "Properties", document: Document, name: str) -> None:
    """The joints of a sub-assembly, to be reached from its parent."""
    joints = [joint for joint in document.joints if joint.startswith(f"{name}/")]
    if joints:
        properties.section("ITS JOINTS")
        for joint in joints[:MOST_JOINTS]:
            properties.button(joint, partial(properties.session.selection.select, f"joints.{joint}"))
        if len(joints) > MOST_JOINTS:
            properties.note(f"And {len(joints) - MOST_JOINTS} more, in the make-up.")


def assembly(properties: "Properties", document: Document, name: str) -> None:
    """A definition: its numbers and where it stands."""
    entry, place = document.tree["assemblies"][name], ("assemblies", name)
    uses = [use.id for use in document.uses.values() if use.assembly == name]
    standing = f"stands as {', '.join(uses)}" if uses else "stands nowhere yet"
    properties.heading("DEFINITION OF A SUB-ASSEMBLY", name, standing, place)
    own = entry.get("parameters", {})
    if own:
        grid = properties.section("PARAMETERS, for all that say nothing else")
        for parameter, value in own.items():
            there = (*place, "parameters", parameter)
            properties.field(grid, parameter, (*there, "value") if isinstance(value, dict) else there)
    properties.section("IT HOLDS")
    parts, joints = len(entry.get("parts", {})), len(entry.get("joints", {}))
    properties.note(f"{parts} parts, {joints} joints. Select any of them in one of its places to change it in all.")
    grid = properties.section("LOOK")
    properties.text(grid, "note", (*place, "note"))


def group(properties: "Properties", document: Document, name: str) -> None:
    """A rigid group and its parts."""
    one, place = document.groups[name], document.home("groups", name)
    if name in document.uses:
        properties.session.selection.select(f"uses.{name}")
        return
    properties.heading(
        "RIGID GROUP", one.label or str(place[-1]), f"{len(one.parts)} parts that move as one body", place
    )
    whose(properties, document, name)
    properties.section("PARTS")
    for part in one.parts:
        properties.button(part, partial(properties.session.selection.select, f"parts.{part}"))
    grid = properties.section("LOOK")
    properties.text(grid, "label", (*place, "label"))
    properties.text(grid, "note", (*place, "note"))
