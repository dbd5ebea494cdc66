"""The cards of a part, of a sub-assembly in its place and of its definition, of a group."""

import math
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QSize
from PySide6.QtGui import QColor, QIcon, QPixmap
from PySide6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QToolButton, QWidget

from anakinema.document.model import Document
from anakinema.geometry.shapes import Shape, shape_kinds
from anakinema.words import shown

from ...theme.tokens import COLOURS

if TYPE_CHECKING:
    from ...session import Place
    from .card import Card

SHAPE_KINDS = shape_kinds()
MOST_JOINTS = 40
"""Joints of a sub-assembly that its card lists."""


def part(card: "Card", document: Document, name: str) -> None:
    """What it is called and looks like, how it may move, its points, placement, depth and shapes."""
    part, place, entry = document.parts[name], document.home("parts", name), document.entry("parts", name)
    card.heading("PART", part.label or str(place[-1]), "", place)
    whose(card, document, name)
    card.switch("Fixed", (*place, "fixed"), "A fixed part stays at its pose exactly")
    if part.of:
        card.note(f"A copy of {part.of}: what is changed there changes here too.")
        card.button(f"Show {part.of}", lambda: card.session.select(f"parts.{part.of}"))
    if not part.fixed:
        grid = card.section("MOTIONS LEFT, drivers off")
        card.told(grid, "here", lambda: freedoms_text(card, name))
        others = [other for other in document.parts if other != name]
        if others:
            centre(card, name, others)
    own = list(entry.get("points", {}))
    if own:
        some = card.paged("points", len(own))
        grid = card.section("POINTS, in the part's own frame")
        for point in own[some.start : some.stop]:
            card.pair(grid, point, (*place, "points", point))
    if "pose" in entry:
        grid = card.section("PLACED AT" if part.fixed else "PLACED ROUGHLY AT")
        for i, label in enumerate(("x", "y", "angle")):
            card.field(grid, label, (*place, "pose", i))
    if "depth" in entry:
        grid = card.section("DEPTH, back to front")
        for i, label in enumerate(("from", "to")):
            card.field(grid, label, (*place, "depth", i))
    shapes = entry.get("shapes", [])
    for i in card.paged("shapes", len(shapes)):
        shape = shapes[i]
        grid = card.section(f"{'CUT: ' if shape.get('cut') else ''}{form_of(shape).title.upper()}")
        shape_fields(card, grid, (*place, "shapes", i), shape)
    grid = card.section("LOOK")
    card.text(grid, "label", (*place, "label"), "What to call it on screen in place of its name")
    card.text(grid, "note", (*place, "note"))
    colours(card, place)


def whose(card: "Card", document: Document, name: str) -> None:
    """Says of what stands in a sub-assembly whose it is."""
    use = name.rpartition("/")[0]
    if use and document.uses[use].of:
        one = document.uses[use]
        card.note(f"One of {one.count} that {use} makes of {one.of}: what is changed here changes in all.")
        card.button(f"Show {use}", lambda: card.session.select(f"uses.{use}"))
    elif use:
        count = sum(one.assembly == document.uses[use].assembly for one in document.uses.values())
        reach = f"; it stands {count} times here, and a change reaches them all" if count > 1 else ""
        turned = " It is turned over: angles count the other way than in the definition." * document.turned_over(name)
        card.note(f"Of the sub-assembly {use} ({document.uses[use].assembly}){reach}.{turned}")
        card.button(f"Show {use}", lambda: card.session.select(f"uses.{use}"))


def centre(card: "Card", name: str, others: list[str]) -> None:
    """The point about which it turns against another part."""
    grid = card.section("INSTANTANEOUS CENTRE, as driven")
    against = QComboBox()
    against.addItems(others)
    against.setAccessibleName("against which part")
    against.currentTextChanged.connect(lambda _: card.refresh_live())
    grid.addWidget(QLabel("against"), 0, 0)
    grid.addWidget(against, 0, 1)
    card.told(grid, "lies at", lambda: center_text(card, name, against.currentText()))


def center_text(card: "Card", name: str, other: str) -> str:
    """Where that point lies."""
    center, document = card.session.instant_center(name, other), card.session.document
    if center is None or document is None:
        return "–"
    return f"({', '.join(shown(value, 'number', document.units, 2) for value in (center.real, center.imag))})"


def freedoms_text(card: "Card", name: str) -> str:
    """The motions that are left to a part."""
    left, document = card.session.motions_left(name), card.session.document
    if left is None or document is None:
        return "–"
    if len(left) == 3:
        return "free: it moves in any way"
    told = []
    for freedom in left:
        if freedom.kind == "slide":
            angle = math.atan2(freedom.direction.imag, freedom.direction.real)
            told.append(f"slides along {shown(angle, 'angle', document.units, 2)}")
        else:
            center = (freedom.center.real, freedom.center.imag)
            x, y = (shown(value, "number", document.units, 2) for value in center)
            told.append(f"turns about ({x}, {y})")
    return "\n".join(told) or "none: its joints hold it"


def form_of(shape: dict[str, Any]) -> type[Shape]:
    """The form that a shape is written in."""
    forms = SHAPE_KINDS[shape["kind"]]
    return next((form for form in forms if form.fields[0].name in shape), forms[-1])


def shape_fields(card: "Card", grid: QGridLayout, place: "Place", shape: dict[str, Any]) -> None:
    """The numbers of a shape, by the fields that its kind declares."""
    card.form(grid, form_of(shape).fields, place, shape)
    if "depth" in shape:
        for i, label in enumerate(("depth from", "depth to")):
            card.field(grid, label, (*place, "depth", i))


def colours(card: "Card", place: "Place") -> None:
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
        button.setToolTip(f"Colour: {word}")
        button.setAccessibleName(f"colour {word}")
        button.clicked.connect(lambda _=False, colour=colour: paint(card, place, colour))
        layout.addWidget(button)
    layout.addStretch(1)
    card.rows.addWidget(row)


def paint(card: "Card", place: "Place", colour: str) -> None:
    """Gives a part a colour, or none of its own."""
    there = (*place, "color")
    if colour:
        card.session.edit(there, colour, "Change colour")
    else:
        card.session.remove(there, "Change colour")


# -- sub-assemblies and groups -----------------------------------------------------------------------------------


def use(card: "Card", document: Document, name: str) -> None:
    """A sub-assembly in its place: how it stands, and its numbers here."""
    one, place, entry = document.uses[name], document.home("parts", name), document.entry("parts", name)
    if one.of:
        repeat(card, document, name)
        return
    card.heading("SUB-ASSEMBLY", one.label or str(place[-1]), f"one of '{one.assembly}'", place)
    whose(card, document, name)
    card.switch("Frozen", (*place, "frozen"), "It moves as one rigid body, as it is placed")
    card.switch("Fixed", (*place, "fixed"), "What is fixed in its definition is fixed here too")
    card.switch("Turned over", (*place, "mirror"), "As in a mirror along its own x axis")
    card.button(f"Show the definition {one.assembly}", lambda: card.session.select(f"assemblies.{one.assembly}"))
    own = document.tree["assemblies"][one.assembly].get("parameters", {})
    if own:
        grid = card.section("ITS NUMBERS, empty: as in the definition")
        for parameter in own:
            card.field(grid, parameter, (*place, "parameters", parameter), optional=True)
    grid = card.section("PLACED AT")
    for i, label in enumerate(("x", "y", "angle")):
        if "pose" in entry:
            card.field(grid, label, (*place, "pose", i))
    card.field(grid, "lift", (*place, "lift"), optional=True)
    limited(card, document, name)
    grid = card.section("LOOK")
    card.text(grid, "label", (*place, "label"))
    card.text(grid, "note", (*place, "note"))


def repeat(card: "Card", document: Document, name: str) -> None:
    """What repeats a part: how often, and how far apart."""
    one, place, entry = document.uses[name], document.home("parts", name), document.entry("parts", name)
    card.heading("REPEAT", one.label or str(place[-1]), f"makes {one.count} of {one.of}, itself counted", place)
    above = name.rpartition("/")[0]
    base = f"{above}/{one.of}".lstrip("/")
    card.button(f"Show {base}", lambda: card.session.select(f"parts.{base}"))
    grid = card.section("HOW MANY")
    card.field(grid, "count", (*place, "count"))
    if "pitch" in entry:
        grid = card.section("EACH FURTHER ON BY")
        card.pair(grid, "pitch", (*place, "pitch"))
    elif "center" in entry:
        grid = card.section("AROUND")
        card.pair(grid, "centre", (*place, "center"))
        card.field(grid, "over", (*place, "over"), optional=True)
    else:
        card.note("A strand: each is pinned by its first point to the second point of the one before.")
    limited(card, document, name)
    grid = card.section("LOOK")
    card.text(grid, "label", (*place, "label"))
    card.text(grid, "note", (*place, "note"))


def limited(card: "Card", document: Document, name: str) -> None:
    """The joints of a sub-assembly, to be reached from its parent."""
    joints = [joint for joint in document.joints if joint.startswith(f"{name}/")]
    if joints:
        card.section("ITS JOINTS")
        for joint in joints[:MOST_JOINTS]:
            card.button(joint, lambda joint=joint: card.session.select(f"joints.{joint}"))
        if len(joints) > MOST_JOINTS:
            card.note(f"And {len(joints) - MOST_JOINTS} more, in the make-up.")


def assembly(card: "Card", document: Document, name: str) -> None:
    """A definition: its numbers and where it stands."""
    entry, place = document.tree["assemblies"][name], ("assemblies", name)
    uses = [use.id for use in document.uses.values() if use.assembly == name]
    told = f"stands as {', '.join(uses)}" if uses else "stands nowhere yet"
    card.heading("DEFINITION OF A SUB-ASSEMBLY", name, told, place)
    own = entry.get("parameters", {})
    if own:
        grid = card.section("PARAMETERS, for all that say nothing else")
        for parameter, value in own.items():
            there = (*place, "parameters", parameter)
            card.field(grid, parameter, (*there, "value") if isinstance(value, dict) else there)
    card.section("IT HOLDS")
    parts, joints = len(entry.get("parts", {})), len(entry.get("joints", {}))
    card.note(f"{parts} parts, {joints} joints. Select any of them in one of its places to change it in all.")
    grid = card.section("LOOK")
    card.text(grid, "note", (*place, "note"))


def group(card: "Card", document: Document, name: str) -> None:
    """A rigid group and its parts."""
    one, place = document.groups[name], document.home("groups", name)
    if name in document.uses:
        card.session.select(f"uses.{name}")
        return
    card.heading("RIGID GROUP", one.label or str(place[-1]), f"{len(one.parts)} parts that move as one body", place)
    whose(card, document, name)
    card.section("PARTS")
    for part in one.parts:
        card.button(part, lambda part=part: card.session.select(f"parts.{part}"))
    grid = card.section("LOOK")
    card.text(grid, "label", (*place, "label"))
    card.text(grid, "note", (*place, "note"))
