"""Cams and teeth: profile and judgement of a cam, what a cam costs among other joints, wheels certified over a turn,
and the cam desk under the hand."""

import math
import os
import time
from dataclasses import replace
from typing import Any

import numpy as np

from anakinema.cams import CamGeometry
from anakinema.cams.judgement import judged, least_base
from anakinema.cams.profile import profile
from anakinema.document import read_document
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.kinematics.simulation import simulate

from . import mechanisms
from .measure import best

PLACES = 3600


def cam(**joint: Any) -> dict[str, Any]:
    """A cam under a roller that slides, with rise, dwell, return and dwell."""
    segments = [{"over": "90 deg", "to": "12 mm", "law": "cycloidal"}, {"over": "60 deg"},
                {"over": "90 deg", "to": 0, "law": "modified-sine"}]  # fmt: skip
    return {
        "anakinema": 1,
        "programs": {"rise": {"segments": segments}},
        "parts": {"frame": {"fixed": True, "points": {"O": [0, 0]}}, "cam": {"points": {"C": [0, 0]}},
                  "foot": {"pose": [0, 30, 0], "points": {"F": [0, 0]}}},
        "joints": {"turn": {"type": "revolute", "a": "frame.O", "b": "cam.C"},
                   "lift": {"type": "prismatic", "a": "frame.O", "b": "foot.F", "direction": 90},
                   "ride": {"type": "cam", "a": "turn", "b": "lift", "program": "rise",
                            "follower": {"kind": "roller", "at": "foot.F", "radius": 6}, **joint}},
        "drivers": {"d": {"joint": "turn", "from": 0, "to": 360, "steps": PLACES}},
    }  # fmt: skip


def shapes() -> None:
    print("\nA cam by itself, the shortest of 20; ratios to finding its places alone")
    found = read_document(cam()).couplings["ride"].cam
    assert found is not None
    a = np.linspace(*found.range, PLACES)
    places = best(lambda: found.guide.at(found.law.lift(a)[0]))
    course = best(lambda: found.course(a))
    print(f"  {PLACES:,} places with curvature, pressure angle, sliding   {1e3 * course:6.2f} ms   "
          f"{course / places:4.1f} times the law alone   (wanted: 10 ms)")  # fmt: skip

    def anew(kind: Any) -> float:
        count = iter(range(10_000))

        def once() -> None:
            kind(replace(found, low=found.low + 1e-6 * next(count)))

        return best(once, 8)

    for name, what, wanted in (("profile of arcs within 1e-6", profile, ""), ("judgement", judged, ""),
                               ("least base circle at 25°", _least, "   (wanted: 500 ms)")):  # fmt: skip
        seconds = anew(what)
        print(f"  {name:52s}   {1e3 * seconds:6.1f} ms   {seconds / course:4.0f} times the places{wanted}")


def _least(found: CamGeometry) -> None:
    least_base(found, math.radians(25))


def among_joints() -> None:
    print(f"\nA turn in {PLACES:,} steps, with rates, the shortest of 5")
    document, other = read_document(cam()), read_document(mechanisms.four_bar(steps=PLACES))

    def stepped(one: Any) -> float:
        def once() -> None:
            motion = simulate(one)
            motion.at(motion.grid)

        return best(once, 5)

    by_cam, loop = stepped(document), stepped(other)
    print(f"  cam and slide   {1e3 * by_cam:6.1f} ms   {by_cam / loop:4.2f} times a loop of four pins   (wanted: 2)")


def teeth() -> None:
    print("\nTwo wheels of 40 teeth without backlash, certified over a turn, from the file to the findings")
    shape = {"kind": "gear", "center": "O", "module": 2, "teeth": 40}
    wheels = {name: {"points": {"O": [0, 0]}, "pose": [x, 0, 0], "shapes": [shape]}
              for name, x in (("one", 0), ("two", 80))}  # fmt: skip
    tree = {
        "anakinema": 1, "parts": {"frame": {"fixed": True, "points": {"O": [0, 0], "Q": [80, 0]}}, **wheels},
        "joints": {"a": {"type": "revolute", "a": "frame.O", "b": "one.O"},
                   "b": {"type": "revolute", "a": "frame.Q", "b": "two.O"},
                   "mesh": {"type": "gear", "a": "a", "b": "b"}},
        "drivers": {"d": {"joint": "a", "from": 0, "to": 360, "steps": 360}},
    }  # fmt: skip
    start = time.perf_counter()
    analyse(read_document(tree))
    plain = time.perf_counter() - start
    checked = {**tree, "checks": {"gap": {"measure": "clearance", "parts": ["one", "two"], "at_least": 0}}}
    start = time.perf_counter()
    found = analyse(read_document(checked))
    seconds = time.perf_counter() - start
    proven = "proven" if found.approaches[0].proven else "not proven"
    print(f"  {seconds:5.2f} s, {proven}   {seconds / plain:4.1f} times the same without the check   (wanted: 3 s)")


def desk() -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from anakinema_desk.application import make_application
    from anakinema_desk.session import Session
    from anakinema_desk.settings import Settings
    from anakinema_desk.window import Window

    print("\nThe cam desk while a segment's end is dragged: from a move until chart, profile and judgement are painted")
    make_application()
    session = Session()
    window = Window(session, Settings())
    window.resize(1280, 800)
    window.show()
    session.open_example(next(name for name in project.EXAMPLES if name.startswith("nip")))
    while session.analysis.busy:
        QTest.qWait(10)
    window.show_cams()
    QTest.qWait(600)
    model, times = window.cam_desk.model, []
    model.number = 1
    for k in range(60):
        start = time.perf_counter()
        model.hold(model.with_end(1, 0.002 * k, None))
        QApplication.processEvents()
        times.append(time.perf_counter() - start)
    times.sort()
    half, slow = 1e3 * times[30], 1e3 * times[57]
    print(f"  median {half:5.1f} ms, slowest 5 % {slow:5.1f} ms   ({1e3 / half:3.0f} frames a second; wanted: 30)")
    session.editor.source = None
    session.stop()


ALL = (shapes, among_joints, teeth, desk)
