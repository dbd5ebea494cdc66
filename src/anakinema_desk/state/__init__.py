"""What the window shows, without widgets: the document and its undo, the analysis, the moment, the hand."""

from .analyst import Analyst
from .drawing_client import DrawingClient
from .editor import Editor, Place
from .log import Log
from .player import Player
from .shown import Shown, Stage
from .study_client import StudyClient

__all__ = ["Analyst", "DrawingClient", "Editor", "Log", "Place", "Player", "Shown", "Stage", "StudyClient"]
