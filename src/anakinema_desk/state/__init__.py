"""What the window shows, without widgets: the document and its undo, the analysis, the moment, the hand."""

from .analyst import Analyst
from .draftsman import Draftsman
from .editor import Editor, Place
from .log import Log
from .player import Player
from .shown import Shown, Stage
from .student import Student

__all__ = ["Analyst", "Draftsman", "Editor", "Log", "Place", "Player", "Shown", "Stage", "Student"]
