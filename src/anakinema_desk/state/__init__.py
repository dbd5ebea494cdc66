"""What the window shows, without widgets: the document and its undo, the analysis, the moment, the hand."""

from .analyst import Analyst
from .editor import Editor, Place
from .player import Player
from .shown import Shown, Stage

__all__ = ["Analyst", "Editor", "Place", "Player", "Shown", "Stage"]
