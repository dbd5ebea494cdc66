"""Documents with one cam, for tests."""

from anakinema.document import read_document

RISE = [{"over": "90 deg", "to": "12 mm", "law": "cycloidal"}, {"over": "60 deg"},
        {"over": "90 deg", "to": 0, "law": "modified-sine"}, {"over": "120 deg"}]  # fmt: skip


def cam(follower=None, segments=None, *, offset=0.0, at=30.0, swings=False, shape=None, **joint):
    """A cam that turns counter-clockwise about the origin and moves a foot: straight up along x = `offset` from y =
    `at` on, or, as it `swings`, at the end of an arm of 50 mm about (60, 0)."""
    follower = {"kind": "roller", "radius": 6} if follower is None else follower
    foot = {"pose": [60, 0, 0], "points": {"P": [0, 0], "F": [-50, 0]}} if swings else {
        "pose": [offset, at, 0], "points": {"F": [0, 0]}}  # fmt: skip
    if follower["kind"] in ("roller", "arc"):
        foot["shapes"] = [{"kind": "disc", "center": "F", "diameter": 2 * follower["radius"]}]
    guide = {"type": "revolute", "a": "frame.P", "b": "foot.P"} if swings else {
        "type": "prismatic", "a": "frame.W", "b": "foot.F", "direction": 90}  # fmt: skip
    return {
        "anakinema": 1,
        "programs": {"rise": {"segments": segments or RISE}},
        "parts": {
            "frame": {"fixed": True, "points": {"O": [0, 0], "W": [offset, 0], "P": [60, 0]}},
            "cam": {"points": {"C": [0, 0]}, "shapes": [shape or {"kind": "cam", "joint": "ride"}]},
            "foot": foot,
        },
        "joints": {
            "turn": {"type": "revolute", "a": "frame.O", "b": "cam.C"},
            "lift": guide,
            "ride": {"type": "cam", "a": "turn", "b": "lift", "program": "rise",
                     "follower": {"at": "foot.F", **follower}, **joint},
        },
        "drivers": {"d": {"joint": "turn", "from": 0, "to": 360, "steps": 72}},
    }  # fmt: skip


def geometry(tree):
    """The cam of a document."""
    return read_document(tree).couplings["ride"].cam
