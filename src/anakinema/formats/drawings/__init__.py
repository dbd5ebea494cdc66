"""Outlines from and to drawing files: DXF and SVG."""

from pathlib import Path

from ...errors import located
from ...geometry.drawn import Drawing, DrawnPiece, Outline, chained, nested
from ..project import read_bytes

__all__ = ["KINDS", "Drawing", "DrawnPiece", "Outline", "chained", "nested", "read_drawing", "write_drawing"]

KINDS = (".dxf", ".svg")
"""What can be read and written."""


def read_drawing(path: Path) -> Drawing:
    """The curves of a drawing file, by layer. Raises `DocumentError` for what is damaged beyond use, or no drawing."""
    data = read_bytes(path)
    match path.suffix.lower():
        case ".dxf":
            from .dxf import read_dxf

            return read_dxf(data)
        case ".svg":
            from .svg import read_svg

            return read_svg(data)
    kind = path.suffix or path.name
    raise located("", f"'{kind}' is no kind of drawing that is read here; {' or '.join(KINDS)} is wanted")


def write_drawing(path: Path, outlines: list[Outline], unit: str) -> None:
    """Writes closed outlines, a layer for each part, in a unit of length. Raises `DocumentError` for another kind of
    file, `OSError` where it can't be written."""
    from ..writing import write_whole

    match path.suffix.lower():
        case ".dxf":
            from .dxf import dxf_text

            text = dxf_text(outlines, unit)
        case ".svg":
            from .svg import svg_text

            text = svg_text(outlines, unit)
        case _:
            raise located("", f"'{path.suffix or path.name}' is no kind of drawing that is written here")
    write_whole(path, text.encode())


