"""Random assemblies grown dyad by dyad: what holds for every mechanism, whatever it is."""

import math

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from anakinema.document import read_document
from anakinema.kinematics.motion import Motion
from anakinema.kinematics.simulation import simulate


def grown(seed: int, dyads: int, size: float = 1.0, turn: float = 25.0):
    """A driven crank, and dyads of two pinned links, or a link and a slider, each hung between points that exist."""
    random = np.random.default_rng(seed)
    parts = {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "crank": {"points": {"O": [0, 0], "P": [size, 0]}}}
    joints = {"main": {"type": "revolute", "a": "frame.O", "b": "crank.O"}}
    start = random.uniform(-180, 180)
    parts["crank"]["pose"] = [0, 0, start]
    spots = {("crank", "P"): size * np.exp(1j * math.radians(start))}

    def ground(k: int) -> tuple[str, str]:
        z = size * complex(*random.uniform(-4, 4, 2))
        parts["frame"]["points"][f"G{k}"] = [z.real, z.imag]
        spots["frame", f"G{k}"] = z
        return "frame", f"G{k}"

    for k in range(dyads):
        keys = [key for key in spots if key[0] != "frame"]
        one = keys[int(random.integers(len(keys)))]
        two = ground(k)
        end = (spots[one] + spots[two]) / 2 + size * complex(*random.uniform(-2, 2, 2))
        links = [(f"a{k}", one)] if k % 3 == 2 else [(f"a{k}", one), (f"b{k}", two)]
        for name, key in links:
            gap = end - spots[key]
            side = size * random.uniform(-1, 1, 2)
            parts[name] = {
                "points": {"S": [0, 0], "E": [abs(gap), 0], "T": side.tolist()},
                "pose": [spots[key].real, spots[key].imag, math.degrees(np.angle(gap))],
            }
            joints[f"{name}s"] = {"type": "revolute", "a": ".".join(key), "b": f"{name}.S"}
            spots[name, "T"] = spots[key] + complex(*side) * gap / abs(gap)
        if k % 3 == 2:
            way = random.uniform(0, 180)
            parts[f"b{k}"] = {"points": {"E": [0, 0]}, "pose": [end.real, end.imag, 0]}
            parts["frame"]["points"][f"G{k}"] = [end.real, end.imag]
            joints[f"b{k}s"] = {"type": "prismatic", "a": f"frame.G{k}", "b": f"b{k}.E", "direction": way}
        joints[f"e{k}"] = {"type": "revolute", "a": f"a{k}.E", "b": f"b{k}.E"}
    drivers = {"turn": {"joint": "main", "to": math.remainder(start, 360) + turn, "steps": 12}}
    return {"anakinema": 1, "parts": parts, "joints": joints, "drivers": drivers}


def moved(tree) -> Motion:
    return simulate(read_document(tree))


def regular(motion: Motion) -> bool:
    """Away from dead points, where the way back is ill-conditioned: no body outruns the crank hundredfold."""
    return motion.stop is None and np.abs(motion.state.v).max() < 60 * np.abs(motion.state.v[:, 1]).max()


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 5), st.floats(0.05, 300))
def test_what_holds_for_every_mechanism(seed, dyads, size):
    tree = grown(seed, dyads)
    motion = moved(tree)
    assert motion.mobility.dof == 1 and motion.mobility.redundant == ()
    # All joints stay closed at and between the steps.
    t = np.linspace(0, motion.path.t1, 31)
    unit = np.array([motion.system.scale, motion.system.scale, 1.0])
    q = np.ascontiguousarray(motion.positions(t) / unit)
    for at in q:
        assert np.abs(motion.system.constraints.residual(at, np.zeros(1))).max() < 1e-9
    # Nothing moves further between close times than its velocity says: no jumps.
    dense = motion.positions(np.linspace(0, motion.path.t1, 2001)) / unit
    steps = np.abs(np.diff(dense, axis=0)).max(axis=(1, 2))
    assert steps.max() < 0.6 or motion.stop is not None
    assume(regular(motion))

    # Forward and back along the same branch returns to the start.
    back = grown(seed, dyads)
    for part, pose in zip(back["parts"], motion.state.q[-1], strict=False):
        if part != "frame":
            back["parts"][part]["pose"] = [*pose[:2].tolist(), math.degrees(pose[2])]
    driven = motion.system.coordinates.index("main")
    there, here = np.degrees(motion.state.coordinates[[-1, 0], driven])
    back["drivers"]["turn"] |= {"from": there, "to": here}
    returned = moved(back)
    assert returned.stop is None
    assert returned.state.q[-1][:, :2] == pytest.approx(motion.state.q[0][:, :2], abs=1e-5)

    # Scaling all lengths scales the results; renumbering parts and joints changes nothing.
    larger = moved(grown(seed, dyads, size))
    assert larger.state.q[-1][:, :2] == pytest.approx(size * motion.state.q[-1][:, :2], abs=1e-6 * size)
    for section in ("parts", "joints"):
        tree[section] = dict(reversed(tree[section].items()))
    other = moved(tree)
    for part in tree["parts"]:
        assert other.state.q[-1, other.system.body(part)] == pytest.approx(
            motion.state.q[-1, motion.system.body(part)], abs=1e-6
        )
