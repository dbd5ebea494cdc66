"""Areas as DXF: closed polylines on a layer of their own."""

import io
from pathlib import Path

from ..clearance.swept import Swept
from .writing import write_whole


def area_dxf(area: Swept, unit: str) -> bytes:
    """The outlines of a swept area on layer SWEPT, holes on layer INNER."""
    from ezdxf.document import Drawing

    from .drawings.dxf import CODES

    file = Drawing.new("R2010")
    file.units = CODES[unit]
    space = file.modelspace()
    for layer in ("SWEPT", "INNER"):
        file.layers.add(layer)
    for ring in area.rings:
        turned = float((ring[:-1].conj() * ring[1:]).imag.sum())
        points = [(z.real, z.imag) for z in ring[:-1].tolist()]
        space.add_lwpolyline(points, close=True, dxfattribs={"layer": "SWEPT" if turned > 0 else "INNER"})
    out = io.StringIO()
    file.write(out)
    return out.getvalue().encode()


def write_area_dxf(area: Swept, path: str, unit: str) -> None:
    """Writes it whole or not at all."""
    write_whole(Path(path), area_dxf(area, unit))
