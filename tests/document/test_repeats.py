"""Repeats: one part as often as an expression says, in a row, around a center, or as a strand."""

import cmath
import math

import jsonschema
import numpy as np
import pytest

from anakinema.document import Rename, Set, changed, read_document
from anakinema.document.read_repeats import MOST_REPEATED
from anakinema.errors import DocumentError
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.kinematics.modes import placed
from anakinema.kinematics.simulation import simulate
from anakinema.operations import clip, gather, leave, nudge, paste, repeat, spelt_out, told_row
from anakinema.studies.tuning import tune

LINK = {"points": {"A": [0, 0], "B": ["pitch", 0]}, "shapes": [{"kind": "bar", "through": ["A", "B"], "width": 4}]}


def tree(**parts):
    return {"anakinema": 1, "parameters": {"n": 6, "pitch": "20 mm"},
            "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, **parts}}  # fmt: skip


def chain(**more):
    """A strand of n links hanging from the frame, its end drawn away along x."""
    made = tree(link={**LINK}, links={"repeat": "link", "count": "n", "strand": True})
    made["parts"]["block"] = {"points": {"Q": [0, 0]}, "pose": ["pitch*n", 0, 0]}
    made["joints"] = {"hang": {"type": "revolute", "a": "frame.O", "b": "link.A"},
                      "pull": {"type": "revolute", "a": "links/6.B", "b": "block.Q"},
                      "way": {"type": "prismatic", "a": "frame.O", "b": "block.Q", "direction": 0}}  # fmt: skip
    made["drivers"] = {"slack": {"joint": "way", "to": "0.6*n*pitch", "steps": 8}}
    return made | more


def test_a_strand_is_as_long_as_its_count_says_and_moves():
    document = read_document(chain())
    jsonschema.validate(document.tree, project.schema())
    assert [name for name in document.parts if "/" in name] == [f"links/{k}" for k in range(2, 7)]
    assert str(document.joints["links/3-pin"].a) == "links/2.B"
    assert document.home("parts", "links/4") == ("parts", "link")
    motion = simulate(document)
    assert motion.stop is None and motion.mobility.dof == 5
    longer = changed(document, Set(("parameters", "n"), 9), Set(("joints", "pull", "a"), "links/9.B"))
    assert len(longer.parts) == 2 + 9 and simulate(longer).mobility.dof == 8
    with pytest.raises(DocumentError, match="there is no part 'links/6'"):
        changed(document, Set(("parameters", "n"), 5))


def test_rows_and_circles_stand_where_arithmetic_says():
    around = {"repeat": "tooth", "count": "n", "center": [0, 0]}
    part = {"points": {"T": [0, 0]}, "pose": [30, 0, 10], "shapes": [{"kind": "disc", "center": "T", "diameter": 4}]}
    made = tree(teeth=around, tooth=part, half={**around, "count": 4, "over": "90 deg"},
                row={"repeat": "tooth", "count": "n/2", "pitch": ["pitch", "-pitch/2"]})  # fmt: skip
    document = read_document(made)
    for name, count, step in (("teeth", 6, 60.0), ("half", 4, 30.0)):
        for k in range(1, count):
            x, y, angle = document.parts[f"{name}/{k + 1}"].pose
            assert complex(x, y) == pytest.approx(cmath.rect(30, math.radians(step * k)))
            assert angle == pytest.approx(math.radians(10 + step * k))
    assert document.parts["row/3"].pose == pytest.approx((70, -20, math.radians(10)))
    assert "row/4" not in document.parts and len(analyse(document).motion.system.body_ids) == 1 + 1 + 1 + 5 + 3 + 2


def test_what_a_count_does_is_a_finding_like_any_other():
    made = tree(link={**LINK}, links={"repeat": "link", "count": "n", "pitch": ["pitch", 0]})
    made["joints"] = {"slide": {"type": "prismatic", "a": "frame.O", "b": "link.A", "direction": 90}}
    made["drivers"] = {"lift": {"joint": "slide", "from": 0, "to": 10, "steps": 2}}
    made["groups"] = {"ladder": {"parts": ["link", "links"]}}
    made["measures"] = {"far": {"measure": "distance", "a": "frame.O", "b": "links/3.A"}}
    document = read_document(made)
    assert simulate(document).mobility.dof == 1  # the group holds all that the repeat makes
    wanted = math.hypot(80, 10)
    assert tune(document, "pitch", "measures.far.max", wanted, 10, 60).solutions == pytest.approx((40,), abs=1e-6)


def test_renaming_follows_into_what_is_repeated():
    document = changed(read_document(chain()), Rename(("parts", "link", "points", "B"), "end"),
                       Rename(("parts", "links"), "strand"), Rename(("parts", "link"), "bit"))  # fmt: skip
    assert document.joints["pull"].a.part == "strand/6" and document.joints["pull"].a.point == "end"
    assert document.parts["strand/2"].of == "bit" and simulate(document).stop is None


def test_a_repeat_in_a_sub_assembly_is_there_in_every_use():
    inner = {"parts": {"link": LINK, "links": {"repeat": "link", "count": "n", "strand": True}}}
    document = read_document({**tree(one={"assembly": "string"}, two={"assembly": "string", "mirror": True}),
                              "assemblies": {"string": inner}})  # fmt: skip
    assert "one/links/6" in document.parts and "two/links/6-pin" in document.joints
    assert document.home("parts", "one/links/6") == ("assemblies", "string", "parts", "link")
    assert simulate(document).mobility.dof == 2 * (3 + 5)


def test_what_goes_is_taken_out_with_what_spoke_of_it():
    document = read_document(chain())
    without = leave(document, ("parts", "links"))
    assert ("joints", "pull") in without.also
    assert "links/2" not in changed(document, *without.changes).parts
    assert ("parts", "links") in leave(document, ("parts", "link")).also


def test_spelt_out_it_moves_the_same():
    document = read_document(chain())
    plain = changed(document, *spelt_out(document, "links").changes)
    assert "links" not in plain.tree["parts"] and len(plain.parts) == len(document.parts)
    ends = [simulate(each).coordinates(np.array([0.5])) for each in (document, plain)]
    assert np.sort(ends[0]) == pytest.approx(np.sort(ends[1]), abs=1e-9)


def test_it_is_copied_gathered_and_moved_with_its_part():
    document = read_document(chain())
    piece = clip(document, ["link", *(f"links/{k}" for k in range(2, 7))])
    again = changed(document, *paste(document, piece, 50 + 0j).changes)
    assert len(again.parts) == len(document.parts) + 6
    with pytest.raises(DocumentError, match="repeats 'link'"):
        gather(document, ["link"])
    whole = changed(document, *gather(document, ["link", "links/2"]).changes)
    assert "unit/links/6" in whole.parts and simulate(whole).stop is None
    moved = changed(document, *nudge(document, ["links/3"], 5j).changes)
    assert moved.parts["link"].pose[1] == moved.parts["links/6"].pose[1] == 5
    motion = simulate(document)
    assert placed(document, motion, motion.state.q[-1]).parts.keys() == document.parts.keys()


@pytest.mark.parametrize(
    ("entry", "message"),
    [
        ({"count": 2.5, "strand": True}, "a whole number from 1"),
        ({"count": MOST_REPEATED + 1, "strand": True}, "a whole number from 1"),
        ({"count": 3}, "give one of 'pitch'"),
        ({"count": 3, "pitch": [1, 0], "center": [0, 0]}, "give one of 'pitch'"),
        ({"count": 3, "pitch": [1, 0], "over": 90}, "is for a repeat around a center"),
        ({"pitch": [1, 0]}, "'count' is missing"),
        ({"count": 3, "pitch": [1, 0], "repeat": "lnik"}, "did you mean 'link'"),
        ({"count": 3, "pitch": [1, 0], "repeat": "links"}, "is no part"),
        ({"count": 3, "pitch": [1, 0], "repeat": "sub"}, "only parts are repeated"),
        ({"count": "2 mm", "pitch": [1, 0]}, "number"),
        ({"count": 3, "strand": True, "repeat": "frame"}, "needs two points"),
    ],
)
def test_nonsense_is_refused_where_it_stands(entry, message):
    made = tree(link=LINK, links={"repeat": "link", **entry}, sub={"assembly": "a"}, copy={"of": "link"})
    made["assemblies"] = {"a": {"parts": {"p": {"points": {"A": [0, 0]}}}}}
    with pytest.raises(DocumentError, match=message):
        read_document(made)


def test_a_name_that_stands_for_several_is_taken():
    """What is drawn never takes the place of a repeat or a sub-assembly of that name."""
    from anakinema.operations import add_disc, duplicate

    made = tree(link=LINK, disc={"repeat": "link", "count": 3, "pitch": [0, 9]}, link2={"assembly": "a"})
    made["assemblies"] = {"a": {"parts": {"p": {"points": {"A": [0, 0]}}}}}
    document = read_document(made)
    assert add_disc(document, 0j, 5).place[1] not in document.tree["parts"]
    assert duplicate(document, "link", 1j).place[1] not in document.tree["parts"]
    assert repeat(document, "link", "n", {"strand": True}).place[1] not in document.tree["parts"]


def test_what_counts_are_is_read_from_a_few_words():
    assert told_row("n at 60 mm") == ("n", "60 mm", False) and told_row("2*n over 90 deg") == ("2*n", "90 deg", True)
    assert told_row("12") == (12, "", False) and told_row("") is None and told_row("2.5") is None
    assert told_row("3 +") is None
