"""Studies as their user waits for them: tuning, many builds against one after the other, a value tried by the
slider."""

import os
import statistics
import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from anakinema.document import changed, read_document
from anakinema.document.changes import Set
from anakinema.findings.checks import judge
from anakinema.formats.project import demo
from anakinema.kinematics.simulation import simulate
from anakinema.studies.builds import Builds, with_numbers
from anakinema.studies.many import many_built
from anakinema.studies.tolerances import tolerances
from anakinema.studies.tuning import tune

BUILDS = 1000


def seconds(run: Callable[[], Any]) -> float:
    """How long something takes."""
    started = time.perf_counter()
    run()
    return time.perf_counter() - started


def tuning() -> None:
    """Tuning the stroke of the demo."""
    document, _ = demo()
    motion = simulate(document)
    took = [seconds(lambda: tune(document, "throw", "checks.stroke", 31.0, motion=motion)) for _ in range(3)]
    found = tune(document, "throw", "checks.stroke", 31.0, motion=motion)
    print(f"tune the demo's stroke: {statistics.median(took):.2f} s for {len(found.curve)} builds (wanted 1 s)")


def builds() -> None:
    """A thousand builds without clearances, against a plain loop over single runs."""
    document, _ = demo()
    document = changed(
        document, *(Set(("parameters", name, "tolerance"), "0.05 mm") for name in ("throw", "rod", "arm"))
    )
    trees = [with_numbers(document, {"throw": f"{15 + 0.0005 * k} mm"}).tree for k in range(60)]

    def alone(tree: Any) -> None:
        read = read_document(tree)
        kept = {name: check for name, check in read.checks.items() if check.measure != "clearance"}
        judge(simulate(replace(read, checks=kept)), {})

    alone(trees[0])
    each = seconds(lambda: [alone(tree) for tree in trees]) / len(trees)
    took = seconds(lambda: tolerances(document, BUILDS, clearance=False))
    print(f"{BUILDS} builds of the demo by {os.cpu_count()} processors: {took:.1f} s (wanted 10 s); "
          f"a plain loop over single runs within one process {BUILDS * each:.1f} s, {BUILDS * each / took:.1f} times "
          "as long (wanted 5)")
    numbers = [{"throw": f"{15 + 0.0005 * k} mm"} for k in range(200)]
    one = seconds(lambda: many_built(document, numbers, clearance=False, jobs=1)) / len(numbers)
    print(f"    by one processor: {1e3 * one:.1f} ms a build, a plain loop {1e3 * each:.1f} ms, {each / one:.1f} times")


def trying() -> None:
    """A value of the slider until its motion is known, and the whole frame with it."""
    from .window import Watched

    document, _ = demo()
    shared = Builds(document)
    shared.motion_with({"throw": "15.1 mm"})
    took = [seconds(lambda k=k: shared.motion_with({"throw": f"{15 + 0.01 * k} mm"})) for k in range(40)]
    watched = Watched()
    watched.session.open_demo()
    watched.settle()
    watched.window.registry.actions["study-tune"].trigger()
    watched.wait(0.3)
    page = watched.window.studies.pages["tune"]
    seen: list[float] = []
    watched.session.trying.changed.connect(lambda: seen.append(time.perf_counter()))
    started = time.perf_counter()
    for k in range(60):
        page.slider.setValue(450 + k)
        watched.wait(0.012)
    watched.wait(0.1)
    rate = len(seen) / (seen[-1] - started) if seen else 0.0
    each = 1e3 * statistics.median(took)
    watched.close()
    print(f"what if: {each:.1f} ms a build; dragged in the window {rate:.0f} pictures a second (wanted 30)")


ALL = (tuning, builds, trying)
