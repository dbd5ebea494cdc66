"""Work that is called off ends at once, wherever it stands, and leaves nothing behind."""

import random
import sys

import pytest

from anakinema.cancellation import CancellationToken, Cancelled
from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.formats.project import example
from anakinema.kinematics.modes import modes
from anakinema.kinematics.simulation import simulate
from mechanisms import document


class Impatient:
    """Wants no more after so many looks."""

    def __init__(self, display_state: int):
        self.left = display_state

    def __call__(self) -> bool:
        self.left -= 1
        return self.left >= 0


def knotted():
    """Loops that do not close: the long way of assembling, with all its restarts."""
    parts, joints = {"frame": {"points": {"O": [0, 0]}}}, {}
    for i in range(8):
        parts[f"p{i}"] = {"points": {"A": [0, 0], "B": [10, 0]}, "pose": [10 * i, 0, 0]}
        joints[f"j{i}"] = {"type": "revolute", "a": f"p{i - 1}.B" if i else "frame.O", "b": f"p{i}.A"}
    joints["strut"] = {"type": "distance", "a": "frame.O", "b": "p7.B", "length": 500}
    return read_document(document(parts, joints))


TASKS = {
    "demo": lambda work: analyse(example("sewing-head")[0], work=work),
    "wheels and a belt": lambda work: analyse(example("folder-drive")[0], work=work),
    "a contact": lambda work: analyse(example("paper-lift")[0], work=work),
    "what can't be closed": lambda work: analyse(knotted(), work=work),
    "all ways": lambda work: modes(simulate(example("sewing-head")[0]), work),
    "ways of a chain": lambda work: modes(simulate(example("delivery-chain")[0]), work),
}


@pytest.mark.parametrize("name", TASKS)
def test_cancelled_at_any_moment(name):
    chance, task = random.Random(name), TASKS[name]
    counted = Impatient(sys.maxsize)
    try:
        task(CancellationToken(counted))
    except Exception as error:  # a mechanism that can't be put together is told so: an end like any other
        assert "can't close" in str(error)
    display_state = sys.maxsize - counted.left
    assert display_state > 5
    for _ in range(6):
        after = chance.randrange(display_state)
        with pytest.raises(Cancelled):
            task(CancellationToken(Impatient(after)))


def test_progress_only_grows_and_ends_at_one():
    shares: list[float] = []
    analyse(example("sewing-head")[0], work=CancellationToken(tell=shares.append))
    assert shares == sorted(shares) and shares[0] >= 0.0 and shares[-1] == 1.0
