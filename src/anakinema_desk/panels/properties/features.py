"""The card of a single feature of a part: a hole, a slot, a point, a contact edge."""

from functools import partial
from typing import TYPE_CHECKING

from anakinema.document.changes import lookup
from anakinema.document.model import Document
from anakinema.errors import DocumentError, Fault
from anakinema.formatting import shown
from anakinema.operations.building import said_at
from anakinema.operations.own_features import (
    Alignment,
    OwnFeature,
    aligned,
    own_feature,
    place_of,
    placed,
    spots_of,
)

from ...theme.choices import Choice
from ...theme.labels import Label
from ..fields import ToldField, as_value
from .parts import form_of, point_text, shape_fields

if TYPE_CHECKING:
    from .properties import Properties

ORIGIN = "the part's origin"


def feature(properties: "Properties", document: Document, name: str) -> None:
    """Its sizes, and where it lies from what is chosen: the origin, an edge of the part, one of its points."""
    one = own_feature(document, name)
    if one is None:
        return
    place = place_of(document, one)
    entry = lookup(document.tree, place)
    properties.heading(heading_of(document, one), f"of {one.part}")
    if len(properties.session.selection.chosen("features")) > 1:
        several(properties)
    properties.button(f"Show {one.part}", lambda: properties.session.selection.select(f"parts.{one.part}"))
    if one.inner[0] == "points":
        grid = properties.section("PLACE, in the part's own axes")
        properties.pair(grid, str(one.inner[1]), place)
    elif one.inner[0] == "shapes":
        grid = properties.section("SIZES")
        shape_fields(properties, grid, place, entry)
    grid = properties.section("LIES FROM")
    bases = bases_of(document, one)
    box = Choice()
    box.addItems(list(bases))
    box.setAccessibleName("from what")
    grid.addWidget(Label("from"), 0, 0)
    grid.addWidget(box, 0, 1, 1, 2)
    for axis, word in enumerate("xy"):
        field = FromField(properties, one, axis, box)
        properties.own_field(grid, axis + 1, f"along {word}", field, f"{name}.from.{word}")
    box.currentTextChanged.connect(lambda _: properties.refresh_live())
    spot = next(iter(spots_of(document, one).values()), None)
    if spot is not None:
        own_spot = spot.conjugate() if document.is_mirrored(one.part) else spot
        grid = properties.section("NOW, in the plane")
        for number, label in enumerate(("at", "velocity", "acceleration")):
            properties.description(grid, label, partial(point_text, properties, one.part, own_spot, number))
    properties.note("Drag it on the bench, or type where it is to be. Del takes it away.")


def several(properties: "Properties") -> None:
    """What brings the features that are selected in order."""
    count = len(properties.session.selection.chosen("features"))
    properties.section(f"{count} CHOSEN")
    for how in Alignment:
        if count > 2 or how in (Alignment.LEVEL, Alignment.UPRIGHT):
            properties.button(how.value.capitalize(), partial(bring_in_order, properties, how))


def bring_in_order(properties: "Properties", how: Alignment) -> None:
    """Brings the features that are selected in order, as one step to undo."""
    session = properties.session
    document = session.document
    if document is None:
        return
    ones = [one for name in session.selection.chosen("features")
            if (one := own_feature(document, name)) is not None]  # fmt: skip
    try:
        faults = session.apply(aligned(document, ones, how), f"Bring {how.value}")
    except DocumentError as error:
        faults = error.faults
    if faults:
        session.faults_raised.emit("Not brought in order", faults)


def heading_of(document: Document, one: OwnFeature) -> str:
    """What it is, for the head of its card."""
    if one.inner[0] == "points":
        return f"POINT {one.inner[1]}"
    if one.inner[0] == "edges":
        return f"CONTACT EDGE {one.inner[1]}"
    entry = lookup(document.tree, place_of(document, one))
    title = form_of(entry).title
    if entry.get("cut"):
        return {"Disc": "HOLE", "Slot": "SLOT", "Arc slot": "ARC SLOT"}.get(title, f"CUT: {title.upper()}")
    return title.upper()


def bases_of(document: Document, one: OwnFeature) -> dict[str, complex]:
    """From what a feature can be measured: name and place, in the axes of the part that is said."""
    found = {ORIGIN: 0j}
    there = said_at(document, one.part, 0j)[0]
    own = set(spots_of(document, one))
    where = place_of(document, one)[: -len(one.inner)]
    turn = complex.conjugate if document.is_mirrored(one.part) else complex
    outline = [slab.region for slab in there.slabs]
    if outline:
        ends = [edges for region in outline for edges in (region.edges.start, region.edges.end)]
        xs, ys = [z.real for e in ends for z in e], [turn(complex(z)).imag for e in ends for z in e]
        found |= {"the left edge": complex(min(xs)), "the right edge": complex(max(xs)),
                  "the lower edge": 1j * min(ys), "the upper edge": 1j * max(ys)}  # fmt: skip
    for point, at in there.points.items():
        if (*where, "points", point) not in own:
            found[f"point {point}"] = turn(complex(*at))
    return found


class FromField(ToldField):
    """How far a feature lies from what is chosen, along an axis. A place beyond the part is drawn, and warned of."""

    def __init__(self, properties: "Properties", one: OwnFeature, axis: int, base: Choice):
        self.one, self.axis, self.base = one, axis, base
        super().__init__(properties.session, ("features", one.text, axis), f"{'xy'[axis]} of {one.text}")

    def _distance(self, document: Document) -> float | None:
        one = own_feature(document, self.one.text)
        if one is None:
            return None
        spots = spots_of(document, one)
        base = bases_of(document, one).get(self.base.currentText())
        if not spots or base is None:
            return None
        off = next(iter(spots.values())) - base
        return (off.real, off.imag)[self.axis]

    def said(self, document: Document) -> str:
        value = self._distance(document)
        return "" if value is None else shown(value, "number", document.units, 6)

    def elsewhere(self, fault: Fault) -> str:
        return fault.text

    def put(self, text: str) -> tuple[Fault, ...]:
        document = self.session.document
        one = own_feature(document, self.one.text) if document is not None else None
        if document is None or one is None:
            return ()
        base = bases_of(document, one).get(self.base.currentText(), 0j)
        value = as_value(text.replace("−", "-"))
        try:
            changes = placed(document, one, self.axis, value, base)
        except (DocumentError, ValueError) as error:
            return error.faults if isinstance(error, DocumentError) else (Fault("", str(error)),)
        faults = self.session.apply(changes, f"Place {one.text}")
        if not faults and self.session.document is not None and outside(self.session.document, one):
            self.session.warned.emit(f"{heading_of(document, one).capitalize()} lies outside {one.part}", ())
        return faults


def outside(document: Document, one: OwnFeature) -> bool:
    """Whether a cut lies where there is nothing to cut: its first place is not within the part's outline without it."""
    entry = lookup(document.tree, place_of(document, one))
    if one.inner[0] != "shapes" or not entry.get("cut"):
        return False
    there = said_at(document, one.part, 0j)[0]
    contours = [edges for shape in there.shapes if not shape.cut for edges in shape.contours()]
    spot = next(iter(spots_of(document, one).values()))
    spot = spot.conjugate() if document.is_mirrored(one.part) else spot
    reach = [z for edges in contours for z in (*edges.start, *edges.end)]
    return not (
        min(z.real for z in reach) <= spot.real <= max(z.real for z in reach)
        and min(z.imag for z in reach) <= spot.imag <= max(z.imag for z in reach)
    )
