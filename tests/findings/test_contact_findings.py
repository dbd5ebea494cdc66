"""What is found of contacts: events in the JSON, the row at a drop, measures, tracks, and that nothing passes."""

import csv
import io
import math

import numpy as np
import pytest

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.findings import analyse
from anakinema.formats.project import example
from anakinema.formats.results import motion_csv, results
from anakinema.operations.ready import READY, make_ready
from anakinema.studies.travel import free_travel
from contacts import ECCENTRIC, FLAT, blocks, cam_and_follower


def ready(kind: str, **driver):
    nothing = read_document({"anakinema": 1})
    made = make_ready(nothing, kind, 0j, 40.0)
    return changed(nothing, *made.changes, Set(("drivers", "d"), {"joint": made.place[1], "steps": 72, **driver}))


@pytest.mark.parametrize(("kind", "start", "end"), [
    ("ratchet", 0, 360), ("ratchetcw", 0, -360), ("detent", 0, 120), ("snail", 0, -400), ("eccentric", 0, 360),
    ("indexing", 180, 540), ("inner", 0, 360),
])  # fmt: skip
def test_of_every_ready_shape_it_is_proven_that_nothing_passes(kind: str, start: float, end: float):
    findings = analyse(ready(kind, to=end, **{"from": start}))
    assert findings.motion.stop is None
    contact = next(iter(findings.document.contacts.values()))
    approach = next(one for one in findings.approaches if set(one.parts) == {contact.a, contact.b})
    assert approach.proven, approach.reason
    assert approach.low >= -1e-6 * 2 * 60


@pytest.mark.parametrize("name", ["ratchet-feed", "indexing-reel"])
def test_the_examples_hold_what_they_promise(name: str):
    findings = analyse(example(name)[0])
    assert not findings.open and findings.motion.stop is None
    touching = {frozenset((one.a, one.b)) for one in findings.document.contacts.values()}
    assert all(one.proven for one in findings.approaches if frozenset(one.parts) in touching)


def test_events_are_listed_in_order_and_told_as_numbers():
    document = ready("snail", to=-400)
    document = changed(document, Set(("checks",), {
        "lost": {"measure": "contact_lost", "contact": "snail-ride", "at_most": 0},
        "share": {"measure": "in_contact", "contact": "snail-ride", "at_least": 0.99},
        "lands": {"measure": "lands_at", "contact": "snail-ride", "at_most": 1},
        "speed": {"measure": "velocity", "joint": "snail-lift", "at_least": -1000},
    }))  # fmt: skip
    findings = analyse(document)
    found = results(findings)
    kinds = [event["kind"] for event in found["contacts"]["snail-ride"]]
    assert kinds == ["touch", "drop", "touch"]
    places = [event["driver"] for event in found["contacts"]["snail-ride"]]
    assert places[1] == places[2] and places[0] == 0
    verdicts = findings.verdicts
    outcomes = [str(verdicts[name].outcome) for name in ("lost", "share", "lands", "speed")]
    assert outcomes == ["fail", "pass", "pass", "fail"]
    assert verdicts["lost"].value == 1 and verdicts["share"].value == pytest.approx(1)
    assert math.isinf(verdicts["speed"].value) and "drops at one value" in verdicts["speed"].reason
    bar = next(one for one in findings.series if one.bars is not None)
    (fell,) = findings.motion.path.drops
    assert bar.bars == ((0.0, fell), (fell, findings.motion.path.t1)) and bar.drops == (fell,)


def test_the_row_at_a_drop_tells_where_it_is_afterwards():
    document = ready("snail", to=-400)
    fell = analyse(document).motion
    at = math.degrees(fell.driver_value(fell.path.drops[0]))
    document = changed(document, Set(("drivers", "d", "to"), 2 * at), Set(("drivers", "d", "steps"), 2),
                       Set(("traces",), {"foot": {"point": "snail-foot.R"}}))  # fmt: skip
    motion = analyse(document).motion
    # A step that falls on the drop to the last bit: rounding may put the middle one beside it.
    motion.cache.state = motion.at(np.array([0.0, motion.path.drops[0], motion.path.t1]))
    rows = list(csv.DictReader(io.StringIO(motion_csv(motion))))
    y = [float(row["foot.y"]) for row in rows]
    assert y[1] < y[0] - 4
    assert float(rows[1]["foot.vy"]) == -math.inf and float(rows[1]["foot.ay"]) == -math.inf
    assert all(math.isfinite(float(rows[k]["foot.vy"])) for k in (0, 2))


def test_free_travel_ends_where_a_part_touches():
    document = read_document(blocks(1, to=5, wall=120))
    motion = analyse(document).motion
    travel = free_travel(motion, motion.positions(np.zeros(1))[0], "s0")
    assert travel.high.value == pytest.approx(110, abs=1e-4)
    assert travel.high.text == "at 110 mm: where 'b0' touches 'wall'"


def test_a_suspended_contact_lets_pass():
    tree = blocks(2, to=80)
    tree["joints"]["c1"]["suspended"] = True
    motion = analyse(read_document(tree)).motion
    assert motion.stop is None and not motion.path.events
    tree = cam_and_follower(ECCENTRIC, FLAT)
    tree["joints"]["touch"]["suspended"] = True
    assert analyse(read_document(tree)).motion.state.coordinates[-1, 1] == pytest.approx(0)


TOOTHED = {"gears", "rack", "planets"}
SLIDING = {"cylinder", "slideway"}
"""Asked for among what is made in one go."""
"""Those that touch by teeth rather than by contact: they are asked for in `test_gears`."""


def test_every_ready_shape_is_asked_for_above():
    stepping = {"ratchet", "ratchetcw", "detent", "snail", "eccentric", "indexing", "inner"}
    assert set(READY) == stepping | TOOTHED | SLIDING


@pytest.mark.parametrize("kind", ["ratchet", "ratchetcw"])
def test_a_pawl_fits_teeth_of_other_numbers(kind: str):
    """With teeth that are undercut and deeper the pawl still stands in its notch, lets the wheel by and holds it."""
    way = 1 if kind == "ratchet" else -1
    for end, stops in ((way * 100, False), (-way * 100, True)):
        document = ready(kind, to=end)
        other = changed(document, Set(("parameters", f"{kind}_face"), "12 deg"),
                        Set(("parameters", f"{kind}_root"), f"0.7 * {kind}_tip"))  # fmt: skip
        motion = analyse(other).motion
        assert (motion.stop is not None) == stops
        if stops:
            assert motion.stop.reason == "contact" and abs(motion.stop.driver) < 1e-6
        else:
            assert sum(event.kind == "drop" for event in motion.path.events) >= 3
        assert other.quantities[f"{kind}_holding"].magnitude > document.quantities[f"{kind}_holding"].magnitude
