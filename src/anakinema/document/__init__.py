"""What the user made: parts, joints, drivers, traces, checks, parameters; reading and changing."""

from .changes import Change, Remove, Rename, Set, changed
from .model import Document
from .reading import read_document

__all__ = ["Change", "Document", "Remove", "Rename", "Set", "changed", "read_document"]
