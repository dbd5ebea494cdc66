"""SVG: the curves of its elements by svgelements; circular arcs stay arcs, other curves become straight pieces that are
counted. Its y axis points down, that of a document up. What is not shown (definitions, hidden layers) is left out; what
is shown and does not come, or not as it is shown, is told.
"""

import math
import re
from collections.abc import Iterator, Mapping
from itertools import pairwise
from typing import Any
from xml.etree import ElementTree

import svgelements as sv  # type: ignore[import-untyped]

from ...errors import located
from ...geometry.drawn import Drawing, DrawnPiece, Outline
from ...kinds import MM_IN
from .tally import DEEPEST, Tally

MM_PX = 25.4 / 96.0
"""Millimetres in a pixel, as CSS has it."""
UNITS = {"": MM_PX, "px": MM_PX, "mm": 1.0, "cm": 10.0, "in": 25.4, "pt": 25.4 / 72.0, "pc": 25.4 / 6.0, "q": 0.25}
LENGTH = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*([a-zA-Z%]*)\s*\Z")
RULE = re.compile(r"([.#]?[\w-]+)\s*\{([^{}]*)\}")
CURVE = 24
"""Straight pieces of a curve that is no arc."""
SAME = 1e-12
"""Share of a place within which another is the same."""
ROUND = 1e-6
"""How much an arc's radii may differ, as a share, for it to be part of a circle."""
LABEL = "{http://www.inkscape.org/namespaces/inkscape}label"
LINK = "{http://www.w3.org/1999/xlink}href"
SHAPES = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}
GROUPS = {"svg", "g", "a", "switch"}
TOLD = {"text": "text", "image": "image", "foreignObject": "foreign object"}
UNDRAWN = {"defs", "symbol", "clipPath", "mask", "pattern", "marker", "linearGradient", "radialGradient", "filter",
           "style", "script", "title", "desc", "metadata", "view", "namedview", "animate", "set"}  # fmt: skip
UNREADABLE = (ValueError, TypeError, AttributeError, KeyError, IndexError, ArithmeticError, RecursionError)
"""What the library raises for an element that makes no sense."""


def read_svg(data: bytes) -> Drawing:
    """The curves of an SVG file in mm, a layer for each group. Raises `DocumentError` for what is none."""
    if b"<!ENTITY" in data:
        raise located("", "declares entities, which are not read here; save it without them")
    try:
        root = ElementTree.fromstring(data.decode("utf-8-sig"))
    except UnicodeDecodeError as error:
        raise located("", f"is not UTF-8 text: byte {error.start} can't be read") from error
    except (ElementTree.ParseError, ValueError, RecursionError) as error:
        line, column = getattr(error, "position", (1, 0))
        what = str(error).partition(":")[0]
        raise located("", f"is no SVG file that can be read: {what} in line {line}, column {column + 1}; it may be cut"
                      ) from error  # fmt: skip
    if _tag(root) != "svg":
        raise located("", f"is no SVG file that can be read: its root is '{_tag(root)[:40]}', not 'svg'")
    walk = _Walk(root)
    layers: dict[str, list[DrawnPiece]] = {}
    for layer, pieces in walk.found(root, _page(root), "", False, 0, ()):
        layers.setdefault(layer or "0", []).extend(pieces)
    return Drawing(layers, "mm", walk.tally.report, walk.tally.complete)


def _tag(element: ElementTree.Element) -> str:
    """An element's name without its namespace; empty for a comment."""
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def _length(text: str | None, otherwise: float | None = None) -> float | None:
    """A size in user units (pixels), or what stands for one that is not said, or is a share of something."""
    found = LENGTH.match(text) if text else None
    unit = found[2].lower() if found else "%"
    return float(found[1]) * UNITS[unit] / MM_PX if found and unit in UNITS else otherwise


def _box(element: ElementTree.Element) -> list[float] | None:
    """The view box: x, y, width, height."""
    words = element.get("viewBox", "").replace(",", " ").split()
    try:
        box = [float(word) for word in words]
    except ValueError:
        return None
    return box if len(box) == 4 and box[2] > 0 and box[3] > 0 and all(map(math.isfinite, box)) else None


def _page(root: ElementTree.Element) -> Any:
    """From user units to millimetres. The origin stays where it is, wherever the page begins."""
    box = _box(root)
    if box is None:
        return sv.Matrix.scale(MM_PX)
    wide, tall = _length(root.get("width")), _length(root.get("height"))
    if wide is None and tall is None:
        return sv.Matrix.scale(MM_PX)
    x = (wide if wide is not None else tall * box[2] / box[3]) / box[2]  # type: ignore[operator]
    y = (tall if tall is not None else wide * box[3] / box[2]) / box[3]  # type: ignore[operator]
    if root.get("preserveAspectRatio", "").strip() != "none":
        x = y = min(x, y)
    return sv.Matrix.scale(x * MM_PX, y * MM_PX)


class _Walk:
    """Goes through what is drawn, uses of symbols among it."""

    def __init__(self, root: ElementTree.Element):
        self.tally = Tally()
        self.named = {name: element for element in root.iter() if (name := element.get("id"))}
        self.rules: dict[str, dict[str, str]] = {}
        for style in root.iter():
            if _tag(style) == "style":
                for name, said in RULE.findall((style.text or "")[:100_000]):
                    self.rules.setdefault(name, {}).update(_declared(said))

    def found(
        self, element: ElementTree.Element, matrix: Any, layer: str, hidden: bool, depth: int, used: tuple[str, ...]
    ) -> Iterator[tuple[str, list[DrawnPiece]]]:
        """The pieces of an element and all within, with the layer of each: the innermost group that has a name."""
        tag = _tag(element)
        if not tag or (tag in UNDRAWN and not (tag == "symbol" and used)):
            return
        self.tally.see()
        style = self._style(element)
        if style.get("display") == "none":
            self._hide(element)
            return
        hidden = {"hidden": True, "collapse": True, "visible": False}.get(style.get("visibility", ""), hidden)
        for word in ("clip-path", "mask"):
            if style.get(word, "none") != "none":
                self.tally.leave(f"{word.replace('-', ' ')} (what it covers came whole)")
        try:
            matrix = sv.Matrix(element.get("transform", "")) * matrix if element.get("transform") else matrix
        except UNREADABLE:
            self.tally.leave(f"{tag} with a transform that makes no sense")
            return
        if tag in TOLD:
            self.tally.leave(TOLD[tag])
        elif tag == "use":
            yield from self._used(element, matrix, layer, hidden, depth, used)
        elif tag in GROUPS or tag == "symbol":
            if tag == "svg" and depth:
                matrix = _viewport(element, element) * matrix
            name = element.get(LABEL) or element.get("id") or layer if tag != "symbol" else layer
            if depth >= DEEPEST:
                self.tally.leave("groups nested too deep")
                return
            for child in element:
                yield from self.found(child, matrix, name, hidden, depth + 1, used)
        elif tag in SHAPES:
            if hidden:
                self.tally.leave(f"{tag} that is hidden")
            else:
                yield from self._shape(element, tag, matrix, layer)

    def _shape(
        self, element: ElementTree.Element, tag: str, matrix: Any, layer: str
    ) -> Iterator[tuple[str, list[DrawnPiece]]]:
        try:
            path = sv.Path(_made(element, tag)) * matrix
            path.reify()
            pieces = list(_pieces(path))
        except UNREADABLE:
            self.tally.leave(f"faulty {tag}")
            return
        found = [piece for piece, _ in pieces if piece.sound]
        self.tally.took(len(found), sum(curved for _, curved in pieces))
        if found:
            yield layer, found
        else:
            self.tally.leave(f"{tag} of no size")

    def _used(
        self, element: ElementTree.Element, matrix: Any, layer: str, hidden: bool, depth: int, used: tuple[str, ...]
    ) -> Iterator[tuple[str, list[DrawnPiece]]]:
        """What an element stands for, in its place."""
        name = (element.get("href") or element.get(LINK) or "").removeprefix("#")
        target = self.named.get(name)
        if target is None or name in used or depth >= DEEPEST:
            self.tally.leave("use of what is not there" if target is None else "use of itself, or nested too deep")
            return
        x, y = (_length(element.get(key), 0.0) or 0.0 for key in ("x", "y"))
        matrix = sv.Matrix.translate(x, y) * matrix
        if _tag(target) == "symbol":
            matrix = _viewport(target, element) * matrix
        yield from self.found(target, matrix, layer, hidden, depth + 1, (*used, name))

    def _hide(self, element: ElementTree.Element) -> None:
        count = sum(_tag(each) in SHAPES for each in element.iter())
        if count:
            self.tally.leave("things that are not displayed", count)

    def _style(self, element: ElementTree.Element) -> Mapping[str, str]:
        """What is said of how an element is shown: by attributes, rules, and by itself."""
        said: dict[str, str] = {}
        for word in ("display", "visibility", "clip-path", "mask"):
            if (value := element.get(word)) is not None:
                said[word] = value.strip()
        if self.rules:
            names = [_tag(element), *(f".{name}" for name in element.get("class", "").split()), f"#{element.get('id')}"]
            for name in names:
                said |= self.rules.get(name, {})
        return said | _declared(element.get("style", ""))


def _declared(text: str) -> dict[str, str]:
    pairs = (each.partition(":") for each in text.split(";"))
    return {name.strip().lower(): value.replace("!important", "").strip() for name, colon, value in pairs if colon}


def _viewport(element: ElementTree.Element, placed: ElementTree.Element) -> Any:
    """From within a symbol, or a drawing in a drawing, to outside: its box fitted into the size that is said."""
    x, y = ((_length(element.get(key), 0.0) or 0.0) for key in ("x", "y")) if element is placed else (0.0, 0.0)
    box = _box(element)
    if box is None:
        return sv.Matrix.translate(x, y)
    wide, tall = (_length(placed.get(key)) or _length(element.get(key)) or box[k]
                  for k, key in ((2, "width"), (3, "height")))  # fmt: skip
    scale = min(wide / box[2], tall / box[3])
    x, y = x + (wide - scale * box[2]) / 2, y + (tall - scale * box[3]) / 2
    return sv.Matrix.translate(-box[0], -box[1]) * sv.Matrix.scale(scale) * sv.Matrix.translate(x, y)


def _made(element: ElementTree.Element, tag: str) -> Any:
    """The shape of an element, as the library has it."""
    if tag == "path":
        return sv.Path(element.get("d", ""))

    def size(key: str, otherwise: float = 0.0) -> float:
        found = _length(element.get(key), otherwise)
        assert found is not None
        return found

    match tag:
        case "rect":
            rx, ry = (_length(element.get(key)) for key in ("rx", "ry"))
            rounded = {"rx": rx if rx is not None else ry or 0.0, "ry": ry if ry is not None else rx or 0.0}
            return sv.Rect(size("x"), size("y"), size("width"), size("height"), **rounded)
        case "circle":
            return sv.Circle(size("cx"), size("cy"), size("r"))
        case "ellipse":
            return sv.Ellipse(size("cx"), size("cy"), size("rx"), size("ry"))
        case "line":
            start = size("x1"), size("y1")
            return sv.Path(sv.Move(start), sv.Line(start, (size("x2"), size("y2"))))
    numbers = [float(word) for word in element.get("points", "").replace(",", " ").split()]
    spots = list(zip(numbers[::2], numbers[1::2], strict=False))
    return sv.Polygon(*spots) if tag == "polygon" else sv.Polyline(*spots)


def _pieces(path: Any) -> Iterator[tuple[DrawnPiece, bool]]:
    """Lines and arcs of a path, each with whether it begins a curve that is neither."""
    for segment in path:
        if isinstance(segment, sv.Move) or segment.start is None or segment.end is None:
            continue
        start, end = _up(segment.start), _up(segment.end)
        if isinstance(segment, (sv.Line, sv.Close)):
            if abs(end - start) > SAME * max(abs(start), 1.0):  # a path that is closed by its own last line is closed
                yield DrawnPiece(start, end), False
        elif isinstance(segment, sv.Arc) and abs(segment.rx - segment.ry) <= ROUND * segment.rx and segment.rx > 0:
            yield DrawnPiece(start, end, _up(segment.center), segment.sweep < 0), False
        else:
            spots = [_up(segment.point(k / CURVE)) for k in range(CURVE + 1)]
            for k, (one, two) in enumerate(pairwise(spots)):
                if one != two:
                    yield DrawnPiece(one, two), k == 0


def _up(at: Any) -> complex:
    return complex(at.x, -at.y)


def svg_text(outlines: list[Outline], unit: str) -> str:
    """Closed outlines as paths with arcs, a group for each part; the page is as large as they are."""
    every = [each for outer in outlines for each in (outer, *outer.cuts)]
    spots = [z for outline in every for piece in outline.pieces for z in _ends(piece)]
    low = complex(min(z.real for z in spots), min(z.imag for z in spots)) if spots else 0j
    high = complex(max(z.real for z in spots), max(z.imag for z in spots)) if spots else 1 + 1j
    scale = MM_IN[unit]
    wide, tall = (high - low).real, (high - low).imag
    lines = [
        '<?xml version="1.0" encoding="UTF-8"?>',
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide * scale:.9g}mm" height="{tall * scale:.9g}mm" '
        f'viewBox="{low.real!r} {-high.imag!r} {wide!r} {tall!r}">',
    ]
    for outer in outlines:
        path = " ".join(path_data(outline) for outline in (outer, *outer.cuts))
        thin = f'fill="none" stroke="black" stroke-width="{max(wide, tall) / 500:.3g}"'
        lines.append(f'<g id="{outer.layer}"><path {thin} d="{path}"/></g>')
    return "\n".join([*lines, "</svg>"]) + "\n"


def _ends(piece: DrawnPiece) -> list[complex]:
    if piece.center is None:
        return [piece.start, piece.end]
    radius = abs(piece.start - piece.center)
    return [piece.start, piece.end, piece.center + complex(radius, radius), piece.center - complex(radius, radius)]


def path_data(outline: Outline) -> str:
    """An outline as the commands of a path, y downward."""
    first = outline.pieces[0].start
    words = [f"M {first.real!r} {-first.imag!r}"]
    for piece in outline.pieces:
        if piece.center is None:
            words.append(f"L {piece.end.real!r} {-piece.end.imag!r}")
            continue
        radius, pieces = abs(piece.start - piece.center), max(1, math.ceil(abs(piece.sweep) / math.pi - 1e-9) + 1)
        for k in range(1, pieces + 1):
            turn = piece.sweep * k / pieces
            to = piece.center + (piece.start - piece.center) * complex(math.cos(turn), math.sin(turn))
            to = piece.end if k == pieces else to
            words.append(f"A {radius!r} {radius!r} 0 0 {0 if piece.sweep > 0 else 1} {to.real!r} {-to.imag!r}")
    return " ".join([*words, "Z"])
