"""What is proposed for a cam is what taking it gives."""

import pytest

from anakinema.document import changed, read_document
from anakinema.findings import analyse
from anakinema.findings.cams import cam_judgements
from anakinema.studies.cam_proposals import acceleration, compared, proposals
from cams import cam

STEEP = [{"over": "60 deg", "to": "24 mm", "law": "cycloidal"}, {"over": "200 deg", "to": 0, "law": "cycloidal"}]
CASES = {
    "gentle": cam(), "steep": cam(segments=STEEP), "undercut": cam({"kind": "roller", "radius": 20}, at=22),
    "large": cam(base=60), "face": cam({"kind": "flat", "direction": 0}, at=60),
    "swings": cam(swings=True, base=24, segments=[{"over": "90 deg", "to": "-24 deg", "law": "harmonic"},
                                                  {"over": "150 deg", "to": 0, "law": "harmonic"}]),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_taking_a_proposal_gives_what_it_says(case):
    document = read_document(CASES[case])
    before = cam_judgements(document)["ride"]
    found = proposals(document, "ride")
    assert found, case
    for one in found:
        taken = changed(document, *one.changes)
        after = cam_judgements(taken)["ride"]
        told = [line for line in one.told if line.what not in ("acceleration", "rises by")]
        there = {line.what: line.after for line in compared(taken, before, after)}
        assert {line.what: line.after for line in told} == there, one.title
        assert not after.undercut or before.undercut
        if one.told[0].what == "acceleration":
            was, now = (acceleration(each.couplings["ride"].cam) for each in (document, taken))
            assert now < was or after.pressure.value < before.pressure.value
        assert analyse(taken).motion.stop is None


def test_the_usual_limits_are_kept_by_what_is_proposed():
    import math

    for case, limit in (("steep", 30), ("large", 30), ("gentle", 30)):
        document = read_document(CASES[case])
        for one in proposals(document, "ride"):
            if one.title.startswith(("Larger", "Smaller", "It could rise")):
                after = cam_judgements(changed(document, *one.changes))["ride"]
                assert math.degrees(after.pressure.value) <= limit
