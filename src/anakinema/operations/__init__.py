"""What a designer does to a document, each as a pure function that gives the changes to make."""

from .building import Made, add_bar, add_disc, add_hole, add_plate, duplicate
from .copying import copy_around, copy_mirrored, copy_row, make_unique, strand
from .driving import drive
from .features import Feature, features
from .joining import Grab, Proposal, join, kinds_for, pinned, proposed
from .leaving import Leaving, leave
from .parameters import make_parameter, named_value

__all__ = [
    "Feature",
    "Grab",
    "Leaving",
    "Made",
    "Proposal",
    "add_bar",
    "add_disc",
    "add_hole",
    "add_plate",
    "copy_around",
    "copy_mirrored",
    "copy_row",
    "drive",
    "duplicate",
    "features",
    "join",
    "kinds_for",
    "leave",
    "make_parameter",
    "make_unique",
    "named_value",
    "pinned",
    "proposed",
    "strand",
]  # fmt: skip
