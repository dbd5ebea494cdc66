"""Many builds in background processes: through joblib, so that a Dask cluster serves as well as this machine."""

import os
import sys
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import FIRST_COMPLETED, BrokenExecutor, Executor, Future, ProcessPoolExecutor, wait
from multiprocessing import get_all_start_methods, get_context
from typing import Any

from ..cancellation import CancellationToken
from ..document import read_document
from ..document.model import Document
from ..lifetimes import serve_only
from .asked import Build, Finding, built, built_together, finding
from .builds import Builds
from .numbers import Numbers

WORTH = 3.0
"""Seconds of builds from which further processes are worth starting."""
PIECES = 16
"""Pieces of work for each process, so that progress shows and none is idle for long."""
LOOK = 0.05
"""Seconds between two looks at whether the work is still wanted."""


def many_built(
    document: Document,
    all_numbers: Sequence[Numbers],
    names: Sequence[str] = (),
    clearance: bool = True,
    jobs: int | None = None,
    work: CancellationToken | None = None,
) -> list[Build]:
    """Every build, in the order of its numbers, with the findings `names`. `jobs` processes share the work; None takes
    as many as there are processors where that is worth it, and the back end that joblib is told to use (a Dask cluster)
    always. The results are the same however many there are."""
    work = work or CancellationToken()
    findings = [finding(document, name) for name in names]
    if not all_numbers:
        return []
    builds = Builds(document, work, clearance=clearance)
    started = time.perf_counter()
    found = [built(builds, all_numbers[0], findings, clearance, work)]
    took = time.perf_counter() - started
    rest = list(all_numbers[1:])
    if jobs is None and not _elsewhere():
        jobs = (os.cpu_count() or 1) if took * len(rest) > WORTH else 1
    if jobs == 1 or not rest:
        for start in range(0, len(rest), builds.together):
            some = rest[start : start + builds.together]
            for build in built_together(builds, some, findings, clearance, work):
                found.append(build)
                work.done(len(found) / len(all_numbers))
        return found
    size = min(builds.together, max(1, -(-len(rest) // (PIECES * (jobs or os.cpu_count() or 1)))))
    pieces = [rest[i : i + size] for i in range(0, len(rest), size)]
    parts: list[list[Build]] = [[] for _ in pieces]
    done = 0
    for number, part in _spread(document, pieces, tuple(names), clearance, jobs, work):
        if part is None:
            parts[number] = list(built_together(builds, pieces[number], findings, clearance, work))
        else:
            parts[number] = part
        done += len(parts[number])
        work.done(done / len(rest))
    return found + [build for part in parts for build in part]


def _elsewhere() -> bool:
    """Whether joblib was told to work otherwise than in processes of this machine."""
    if "joblib" not in sys.modules:
        return False
    from joblib.parallel import get_active_backend

    return type(get_active_backend()[0]).__name__ != "LokyBackend"


Spread = Iterator[tuple[int, list[Build] | None]]
"""Pieces by number, as they are built; None stands for one that is to be built by who asks."""


def _spread(
    document: Document, pieces: list[list[Numbers]], names: tuple[str, ...], clearance: bool, jobs: int | None,
    work: CancellationToken,
) -> Spread:  # fmt: skip
    tree = _plain(document.tree)
    if _elsewhere():
        import joblib

        calls = (joblib.delayed(_piece)(number, tree, piece, names, clearance) for number, piece in enumerate(pieces))
        yield from joblib.Parallel(n_jobs=jobs, return_as="generator_unordered")(calls)
        return
    yield from _beside(
        lambda number: (number, tree, pieces[number], names, clearance), len(pieces), (jobs or os.cpu_count() or 1) - 1,
        work,
    )  # fmt: skip


def _beside(arguments: Callable[[int], tuple[Any, ...]], count: int, others: int, work: CancellationToken) -> Spread:
    """Pieces built by other processes and by this one, which is at work while the others start."""
    left: deque[int] = deque(range(count))
    running: dict[Future[tuple[int, list[Build]]], int] = {}
    executor = _executor(others)
    try:
        while left or running:
            while left and len(running) < 2 * others:
                number = left.popleft()
                try:
                    running[executor.submit(_piece, *arguments(number))] = number
                except BrokenExecutor:
                    left.append(number)
                    others = 0
            if left:
                yield left.pop(), None
            else:
                wait(running, timeout=LOOK, return_when=FIRST_COMPLETED)
                work.check()
            for done in [each for each in running if each.done()]:
                number = running.pop(done)
                try:
                    found = done.result()
                except BrokenExecutor:  # somebody has ended one of them: this process goes on alone
                    left.append(number)
                    others = 0
                    continue
                yield found
    finally:
        for each in running:
            each.cancel()
        if isinstance(executor, ProcessPoolExecutor):
            executor.shutdown(wait=False, cancel_futures=True)


def _executor(others: int) -> Executor:
    """Other processes: copies of this one, which know all that it knows and are there at once, where it has no second
    thread and no window that would be copied half; else those that joblib keeps, which must start and read all anew."""
    if threading.active_count() == 1 and "PySide6" not in sys.modules and "fork" in get_all_start_methods():
        return ProcessPoolExecutor(others, get_context("fork"), initializer=serve_only, initargs=(os.getpid(),))
    from joblib.externals.loky import get_reusable_executor

    kept: Executor = get_reusable_executor(max_workers=others, initializer=serve_only, initargs=(os.getpid(),))
    return kept


def _plain(tree: Any) -> Any:
    """A tree of plain objects and lists, which goes to other processes."""
    if isinstance(tree, Mapping):
        return {key: _plain(value) for key, value in tree.items()}
    return [_plain(value) for value in tree] if isinstance(tree, list) else tree


_known: dict[int, tuple[Any, Builds, list[Finding]]] = {}


def _piece(
    number: int, tree: Any, numbers: Sequence[Numbers], names: tuple[str, ...], clearance: bool
) -> tuple[int, list[Build]]:
    """Some builds, in another process. The document is read there once for all pieces."""
    key = hash((repr(tree), names, clearance))
    if key not in _known:
        _known.clear()
        document = read_document(tree)
        _known[key] = (tree, Builds(document, clearance=clearance), [finding(document, name) for name in names])
    _, builds, findings = _known[key]
    return number, list(built_together(builds, numbers, findings, clearance))
