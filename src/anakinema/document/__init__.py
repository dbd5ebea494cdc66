"""What the user made: parts, joints, drivers, traces, checks, parameters; reading and changing."""

from .changes import Change, Put, Rename, Take, changed
from .model import Document
from .reading import read_document

__all__ = ["Change", "Document", "Put", "Rename", "Take", "changed", "read_document"]
