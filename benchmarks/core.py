"""The core: stepping, dragging, editing, against rivals measured in the same run."""

import math
import statistics
import time
import tracemalloc
from typing import Any

import numpy as np

from anakinema.cancellation import CancellationToken
from anakinema.document import Document, Remove, Set, changed, read_document
from anakinema.findings import analyse
from anakinema.formats import project
from anakinema.kinematics.carrying import Bounds
from anakinema.kinematics.dragging import Grip
from anakinema.kinematics.drive import compile_drive, laws
from anakinema.kinematics.follow import follow
from anakinema.kinematics.simulation import assembled, simulate
from anakinema.kinematics.system import compile_system
from anakinema.kinematics.timetable import timetable

from . import mechanisms, rivals
from .measure import best, growth

STEPS = 360
ROWS = (1, 10, 40, 100, 200, 400)

NO_BOUNDS = Bounds(np.zeros(0), np.zeros(0))


def prepared(tree: dict[str, Any]) -> tuple[Any, Any, np.ndarray]:
    """The drive of a document, the law of its motion and its assembly: what stepping starts from."""
    document = read_document(tree)
    system = compile_system(document)
    q = assembled(document, system)
    drive = compile_drive(document, system, q)
    table = timetable(document, drive, np.zeros(1))
    return drive, laws(drive, table, np.zeros(1)), q


def stepped(drive: Any, law: Any, q: np.ndarray, steps: int = STEPS) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Follows the branch from the assembly and evaluates all steps with velocities and accelerations."""
    path = follow(drive, law, q, CancellationToken(), NO_BOUNDS)
    return path.at(np.linspace(0.0, path.t1, steps + 1))


def one_loop() -> None:
    print(f"\nOne four-bar loop, {STEPS} steps over a turn")
    drive, law, q = prepared(mechanisms.four_bar())
    speed = 2 * math.pi
    ours, exact = stepped(drive, law, q), rivals.closed_form(360.0, STEPS, speed)
    worst = [float(np.abs(mine[:, 1:4, 2] - theirs).max()) for mine, theirs in zip(ours, exact, strict=True)]
    print(f"  largest difference from the closed form: {worst[0]:.1e} rad, {worst[1]:.1e} rad/s, {worst[2]:.1e} rad/s²")
    found = rivals.by_root_finder(360.0, STEPS)[:, [2, 5, 8]]
    print(f"  largest difference of the root finder from it: {np.abs(found - exact[0]).max():.1e} rad")
    rounds = []
    for _ in range(5):
        mine = best(lambda: stepped(drive, law, q), 10)
        path = follow(drive, law, q, CancellationToken(), NO_BOUNDS)
        known = best(lambda path=path: path.at(np.linspace(0.0, path.t1, STEPS + 1)), 10)
        root = best(lambda: rivals.by_root_finder(360.0, STEPS), 2)
        closed = best(lambda: rivals.closed_form(360.0, STEPS, speed), 20)
        rounds.append((mine, known, root, closed))
    mine, known, root, closed = (statistics.median(each) / (STEPS + 1) * 1e6 for each in zip(*rounds, strict=True))
    print("  per step, median of 5 rounds:")
    print(f"    Anakinema, branch followed, positions, velocities, accelerations  {mine:8.2f} µs")
    print(f"    the same, all steps of the branch already known                   {known:8.2f} µs")
    print(f"    SciPy root on the same nine equations, positions only             {root:8.2f} µs")
    print(f"    closed form in NumPy, positions, velocities, accelerations        {closed:8.2f} µs")
    print(f"  {root / mine:.1f} times faster than the root finder (wanted: 5, later 20)")
    print(f"  {mine / closed:.1f} times the closed form's time (wanted: below 20)")


def loops_in_a_row() -> None:
    print(f"\nFour-bar loops in a row, {STEPS} steps with velocities and accelerations")
    print("     n   per step    growth from n before   memory of the results   peak while computing")
    before: tuple[int, float] | None = None
    first = 0.0
    for count in ROWS:
        drive, law, q = prepared(mechanisms.four_bars(count))
        seconds = best(lambda drive=drive, law=law, q=q: stepped(drive, law, q), 3 if count > 40 else 8)
        tracemalloc.start()
        held = stepped(drive, law, q)
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        size = sum(array.nbytes for array in held)
        grown = growth(count, seconds, before)
        print(f"  {count:4d}  {seconds / (STEPS + 1) * 1e6:8.1f} µs  {grown:>20}   {size / 1e6:12.2f} MB"
              f"   {peak / 1e6:16.2f} MB")
        before = (count, seconds)
        first = first or seconds
        if count == 40:
            print(f"        40 loops take {seconds / first:.1f} times as long as one (40 would be linear)")
        if count == 400:
            print(f"        from 1 to 400: n^{math.log(seconds / first) / math.log(count):.2f} (wanted: at most n^1.1)")


def dragging() -> None:
    print("\nA strand pulled straight by its end, the hand 25 mm further at every update, six steps in each")
    print("  links   updates   median      longest    growth    end at, of reach   largest lean left")
    before: tuple[int, float] | None = None
    for links in (50, 100, 200, 400):
        tree, (x, _) = mechanisms.strand(links)
        document = read_document(tree)
        system = compile_system(document)
        at = simulate(document).at(np.zeros(1))
        hand = Grip(document, system, at.q[0], at.coordinates[0], f"link{links - 1}", (12.7, 0.0))
        hand.pull(x + 0.1, 0.0, steps=6)
        times, reach = [], links * 12.7
        pulled, settled = x, False
        while not settled:
            pulled = min(pulled + 25.0, reach + 50.0)
            start = time.perf_counter()
            found = hand.pull(pulled, 0.0, steps=6)
            times.append(time.perf_counter() - start)
            settled = found.settled and pulled >= reach + 50.0
        end = found.q[links, 0] + 12.7 * math.cos(found.q[links, 2])
        lean = np.degrees(np.abs(found.q[1 : links + 1, 2]).max())
        middle = statistics.median(times)
        grown = growth(links, middle, before)
        print(f"  {links:5d}   {len(times):7d}   {middle * 1e3:6.2f} ms   {max(times) * 1e3:6.2f} ms   {grown:>6}"
              f"   {end / reach:12.6f}   {lean:14.3f}°")
        before = (links, middle)
    print("  (wanted: every update of the 200-link strand within 16 ms)")


def editing() -> None:
    print("\nChanging one number of the demo: from the edit to new motion and findings")
    document, _ = project.demo()
    lengths = iter(range(1_000_000))

    def edit() -> Document:
        guide = f"rod + throw + {8 + 1e-4 * next(lengths)} mm"
        return changed(document, Set(["parameters", "guide", "value"], guide))

    whole, motion = best(lambda: analyse(edit()), 10), best(lambda: simulate(edit()), 10)
    print(f"  motion after {motion * 1e3:.1f} ms (the bench redraws), all findings after {whole * 1e3:.1f} ms "
          f"(wanted: below 100 ms)")
    certified = [check for check in document.checks.values() if check.measured.kind not in ("travel", "clearance")]
    less = document
    for check in certified:
        less = changed(less, Remove(["checks", check.id]))
    shares = []
    for _ in range(10):  # side by side, so that both meet the same machine
        without = best(lambda: analyse(less), 2)
        shares.append(1 - without / best(lambda: analyse(document), 2))
    print(f"  the certified extremes of its {len(certified)} measures are {statistics.median(shares):.0%} of the "
          f"findings (wanted: at most 10 %)")


def strands() -> None:
    print("\nA strand of n links, its end pulled by a driver until it is taut: the motion followed")
    before: tuple[int, float] | None = None
    for links in (25, 50, 100, 200):
        tree, (x, _) = mechanisms.strand(links)
        document = read_document(mechanisms.pulled(tree, x, links))
        seconds = best(lambda document=document: simulate(document), 1)
        stop = simulate(document).stop
        grown = growth(links, seconds, before)
        at = f"{stop.driver / (links * 12.7):.9f} of its length" if stop else "nowhere"
        print(f"  {links:5d} links   {seconds:6.2f} s   {grown:>6}   stops at {at}")
        before = (links, seconds)


ALL = (one_loop, loops_in_a_row, dragging, strands, editing)
