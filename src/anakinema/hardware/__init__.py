"""Hardware from shipped tables: screws, nuts, washers, pins, rings, collars, bearings. Each table names its source.

A piece is a stack of plain solids about its axis: `solids` gives them from the plane on which it seats, outward
positive.
"""

from .kinds import KINDS, HardwareKind, Solid
from .tables import TABLES, Clearance, Row, Table, clearance_hole, table

__all__ = ["KINDS", "TABLES", "Clearance", "HardwareKind", "Row", "Solid", "Table", "clearance_hole", "table"]
