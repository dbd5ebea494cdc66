"""Many builds in background processes: through joblib, so that a Dask cluster serves as well as this machine."""

import os
import time
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import Any

from ..document import read_document
from ..document.model import Document
from ..work import Work
from .asked import Build, Finding, built, finding
from .builds import Builds, Numbers

WORTH = 3.0
"""Seconds of builds from which further processes are worth starting."""
PIECES = 8
"""Pieces of work for each process, so that progress shows and none is idle for long."""


def many_built(
    document: Document,
    all_numbers: Sequence[Numbers],
    names: Sequence[str] = (),
    clearance: bool = True,
    jobs: int | None = None,
    work: Work | None = None,
) -> list[Build]:
    """Every build, in the order of its numbers, with the findings `names`. `jobs` processes share the work; None takes
    as many as there are processors where that is worth it, and the back end that joblib is told to use (a Dask cluster)
    always. The results are the same however many there are."""
    work = work or Work()
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
        for i, numbers in enumerate(rest, 1):
            found.append(built(builds, numbers, findings, clearance, work))
            work.done(i / len(all_numbers))
        return found
    size = max(1, -(-len(rest) // (PIECES * (jobs or os.cpu_count() or 1))))
    pieces = [rest[i : i + size] for i in range(0, len(rest), size)]
    parts: list[list[Build]] = [[] for _ in pieces]
    here = deque(range(len(pieces)))
    done = 0
    for number, part in _spread(document, pieces, here, names, clearance, jobs):
        if part is None:
            parts[number] = [built(builds, each, findings, clearance, work) for each in pieces[number]]
        else:
            parts[number] = part
        done += len(parts[number])
        work.done(done / len(rest))
    return found + [build for part in parts for build in part]


def _elsewhere() -> bool:
    """Whether joblib was told to work elsewhere than on this machine."""
    import sys

    if "joblib" not in sys.modules:
        return False
    from joblib.parallel import get_active_backend

    return type(get_active_backend()[0]).__name__ == "DaskDistributedBackend"


def _spread(
    document: Document, pieces: list[list[Numbers]], left: deque[int], names: Sequence[str], clearance: bool,
    jobs: int | None,
) -> Iterator[tuple[int, list[Build] | None]]:  # fmt: skip
    """The pieces that are `left`, by number, as they are built elsewhere; None stands for one that is to be built by
    this process, which works as one of the jobs: the others take some time to start."""
    from joblib import Parallel, delayed

    tree = _plain(document.tree)

    def taken() -> Iterator[Any]:
        while (number := _next(left.popleft)) is not None:
            yield delayed(_piece)(number, tree, pieces[number], tuple(names), clearance)

    if _elsewhere():
        yield from Parallel(n_jobs=jobs, return_as="generator_unordered")(taken())
        return
    others = max(1, (jobs or os.cpu_count() or 1) - 1)
    run = Parallel(n_jobs=others, return_as="generator_unordered", pre_dispatch=2 * others, batch_size=1)(taken())
    while (number := _next(left.pop)) is not None:
        yield number, None
    yield from run


def _next(take: Callable[[], int]) -> int | None:
    """What is taken from one end; None where nothing is left, which two threads may find out at once."""
    try:
        return take()
    except IndexError:
        return None


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
    return number, [built(builds, each, findings, clearance) for each in numbers]
