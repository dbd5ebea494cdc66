"""A position that is kept in sight: a ghost of the mechanism there, and how far all joints are from it now."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from .shown import Pose

if TYPE_CHECKING:
    from anakinema.arrays import Array
    from anakinema.document import Document


@dataclass(frozen=True)
class Ghost:
    """Where the parts of a document stood, the coordinates (C,) by joint, and at which place of the motion that was."""

    document: "Document"
    poses: dict[str, Pose]
    coordinates: "Array"
    ids: tuple[str, ...]
    text: str
