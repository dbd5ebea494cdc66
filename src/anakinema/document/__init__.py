"""What the user made: parts, joints, drivers, traces, checks, parameters; reading and editing."""

from .editing import edited, removed
from .model import Document
from .reading import read_document

__all__ = ["Document", "edited", "read_document", "removed"]
