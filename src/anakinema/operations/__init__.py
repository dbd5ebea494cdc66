"""What a designer does to a document, each as a pure function that gives the changes to make."""

from ..geometry.features import Feature
from .building import (
    Made,
    add_angled,
    add_arc_slot,
    add_bar,
    add_boss,
    add_disc,
    add_hole,
    add_outline,
    add_plate,
    add_slot,
    duplicate,
    nudge,
)
from .camming import cam_between, carried_by, turned_by
from .copying import copy_mirrored, copy_onto, make_unique
from .counting import reversed_sign, zero_here
from .driving import arranged, drive, new_program, read_table, shifted_start, stretched
from .features import features
from .following import Offer, add_check, add_expression, add_measure, add_track, moved_track, offers
from .gathering import clip, gather, group, group_still, insert, paste, use_again
from .guiding import slot_along, usual_width
from .joining import Grab, Proposal, beneath, hole_pinned, join, kinds_for, pinned, proposed
from .leaving import Leaving, leave, tied_elsewhere
from .mirroring import driven_among, mirror
from .parameters import make_parameter, named_value, tolerance_text, with_tolerance
from .reading_off import ReadOff, cam_of_motion
from .rejoining import exchanged, reanchored, reattached, retyped, types_for, with_outline_of
from .rows import copy_around, copy_row, repeat, spelt_out, strand, told_row
from .sides import size_of_side, with_size_of_side
from .studying import check_measure, couple, couplings_for, keep_position, measure, trace_point
from .touching import lifted_off, move_apart, stop_here, touch, touch_all
from .wording import finding_words, place_words

__all__ = [
    "Feature",
    "Grab",
    "Leaving",
    "Made",
    "Offer",
    "Proposal",
    "ReadOff",
    "add_angled",
    "add_arc_slot",
    "add_bar",
    "add_boss",
    "add_check",
    "add_disc",
    "add_expression",
    "add_hole",
    "add_measure",
    "add_outline",
    "add_plate",
    "add_slot",
    "add_track",
    "arranged",
    "beneath",
    "cam_between",
    "cam_of_motion",
    "carried_by",
    "check_measure",
    "clip",
    "copy_around",
    "copy_mirrored",
    "copy_onto",
    "copy_row",
    "couple",
    "couplings_for",
    "drive",
    "driven_among",
    "duplicate",
    "exchanged",
    "features",
    "finding_words",
    "gather",
    "group",
    "group_still",
    "hole_pinned",
    "insert",
    "join",
    "keep_position",
    "kinds_for",
    "leave",
    "lifted_off",
    "make_parameter",
    "make_unique",
    "measure",
    "mirror",
    "move_apart",
    "moved_track",
    "named_value",
    "new_program",
    "nudge",
    "offers",
    "paste",
    "pinned",
    "place_words",
    "proposed",
    "read_table",
    "reanchored",
    "reattached",
    "repeat",
    "retyped",
    "reversed_sign",
    "shifted_start",
    "size_of_side",
    "slot_along",
    "spelt_out",
    "stop_here",
    "strand",
    "stretched",
    "tied_elsewhere",
    "told_row",
    "tolerance_text",
    "touch",
    "touch_all",
    "trace_point",
    "turned_by",
    "types_for",
    "use_again",
    "usual_width",
    "with_outline_of",
    "with_size_of_side",
    "with_tolerance",
    "zero_here",
]
