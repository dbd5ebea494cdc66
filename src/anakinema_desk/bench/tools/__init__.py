"""What the hand can do on the bench besides pulling: one small class a tool."""

from .base import Snap, Tool
from .drawing import BarTool, DiscTool, HoleTool, PlateTool
from .joining import JoinTool

TOOLS: dict[str, type[Tool]] = {tool.name: tool for tool in (BarTool, DiscTool, PlateTool, HoleTool, JoinTool)}
"""The tools by name, in the order of the work."""

__all__ = ["TOOLS", "Snap", "Tool"]
