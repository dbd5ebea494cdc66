"""What the hand can do on the bench besides pulling: one small class a tool."""

from ..picking import Snap
from .base import Tool
from .camming import CamTool
from .copying import CopyTool
from .cutting import CutTool
from .drawing import AngleTool, BarTool, DiscTool, PlateTool, TeeTool
from .joining import JoinTool
from .measuring import MeasureTool
from .mirroring import MirrorTool
from .onpart import ArcSlotTool, BossTool, HoleTool, PictureTool, PointTool, SlotTool
from .outline import OutlineTool
from .rejoining import RejoinTool
from .touching import TouchTool
from .tracing import TraceTool

TOOLS: dict[str, type[Tool]] = {
    tool.name: tool
    for tool in (BarTool, DiscTool, PlateTool, OutlineTool, AngleTool, TeeTool, HoleTool, SlotTool, ArcSlotTool,
                 BossTool, PointTool, JoinTool, RejoinTool, TouchTool, CamTool, CopyTool, MirrorTool, MeasureTool,
                 TraceTool, CutTool,
                 PictureTool)
}  # fmt: skip
"""The tools by name, in the order of the work."""
AT_HAND = ("bar", "disc", "plate", "outline", "hole", "slot", "join", "contact", "cam", "copy-onto", "measure")
"""Those with a button on the bench; the others are in the menu."""

__all__ = ["AT_HAND", "TOOLS", "Snap", "Tool"]
