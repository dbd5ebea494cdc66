"""What a reckoner can be asked. Each task is given what tells of it, the work, and what it was asked with."""

import contextlib
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from ..cancellation import CancellationToken
from ..document.model import Document, Position
from ..errors import DocumentError, located

if TYPE_CHECKING:
    from ..arrays import Array
    from ..geometry.drawn import Chosen, Drawing
    from ..kinematics.motion import Motion
    from ..operations.importing import Pose
    from ..studies.builds import Builds
    from ..studies.numbers import Numbers

Tell = Callable[[str, Any], None]
"""Tells something of a task: what it is, and its value."""
OFTEN = 0.25
"""Seconds between two tellings of how far compiling has come."""


def analyse(tell: Tell, work: CancellationToken, document: Document) -> None:
    """All findings of a document: ``compiling`` where that comes first, then ``moved``, ``gauged``, ``judged``."""
    from ..findings import analyse
    from ..kinematics.dragging import prepare

    def moved(motion: "Motion") -> None:
        motion.traced  # noqa: B018 - found here, so that who asked need not
        tell("moved", motion)

    with _compiling(tell):
        found = analyse(document, work=work, moved=moved, gauged=lambda gaps: tell("gauged", gaps))
        tell("judged", found)
        prepare(found.motion)


@contextlib.contextmanager
def _compiling(tell: Tell) -> Iterator[None]:
    """Tells, while the inner loops are compiled for the first time, how far that has come."""
    from ..compiling import compiled_before, compiled_share
    from ..compiling.store import unkept

    if compiled_before():
        yield
        return
    over = threading.Event()

    def tell_share() -> None:
        while not over.wait(OFTEN):
            tell("compiling", compiled_share())

    if why := unkept():
        tell("unkept", why)
    tell("compiling", 0.0)
    teller = threading.Thread(target=tell_share, daemon=True)
    teller.start()
    try:
        yield
    finally:
        over.set()
        teller.join()


def ways(tell: Tell, work: CancellationToken, motion: "Motion") -> None:
    """The other ways to put the parts together: ``ways_found``."""
    from ..kinematics.modes import modes

    tell("ways_found", modes(motion, work))


def way(tell: Tell, work: CancellationToken, motion: "Motion", q: "Array", position: Position) -> None:
    """The way from where the parts stand (P, 3) to a named position, or why there is none: ``way_found``."""
    from ..kinematics.positions import way_to

    _told(tell, "way_found", lambda: way_to(motion, q, position, work))


def wiggle(tell: Tell, work: CancellationToken, motion: "Motion", q: "Array", joint: str) -> None:
    """The positions of a joint's way to and fro from where the parts stand (P, 3): ``wiggled``."""
    from ..kinematics.positions import to_and_fro

    try:
        tell("wiggled", to_and_fro(motion, q, joint, work))
    except DocumentError as error:
        tell("way_found", error)


def try_out(tell: Tell, work: CancellationToken, motion: "Motion", numbers: "Numbers") -> None:
    """The motion of a mechanism with other numbers, or why there is none: ``tried``; then how its checks come out:
    ``judged``, without those of clearances first."""
    from ..studies.asked import verdicts_of
    from ..studies.builds import Builds

    if not _last or _last[0].motion is not motion:
        _last[:] = [Builds(motion.document, motion=motion)]

    try:
        found = _last[0].motion_with(numbers, work)
    except DocumentError as error:
        tell("tried", error)
        return
    found.traced  # noqa: B018 - found here, so that who asked need not
    tell("tried", found)
    without = [name for name, one in found.document.checks.items() if one.measure == "clearance"]
    tell("judged", (verdicts_of(found, clearance=False, work=work), not without))
    if without:
        tell("judged", (verdicts_of(found, clearance=True, work=work), True))


_last: "list[Builds]" = []
"""The builds of the mechanism that was tried out last."""


def study(tell: Tell, work: CancellationToken, name: str, document: Document, *asked: Any) -> None:
    """What a study finds (see `anakinema.studies.types`), asked with the arguments of its `run`: ``found``."""
    from ..studies.types import STUDY_TYPES

    tell("found", STUDY_TYPES[name].run(work, document, *asked))


def read_drawing(tell: Tell, work: CancellationToken, path: Path) -> None:
    """What a drawing file holds, or why it can't be read: ``contents``."""
    _drawings.clear()  # it may have been changed since
    _told(tell, "contents", lambda: _drawing(path, work).contents)


def outline_drawing(tell: Tell, work: CancellationToken, path: Path, chosen: "Chosen") -> None:
    """The outlines of what is chosen of a drawing file, and what there is to tell of them: ``outlined``."""
    from ..geometry.drawn import outlined

    _told(tell, "outlined", lambda: outlined(_drawing(path, work), chosen, work))


def write_drawing(tell: Tell, work: CancellationToken, document: Document, path: Path, poses: "Mapping[str, Pose]",
                  parts: Sequence[str]) -> None:  # fmt: skip
    """Writes the outlines of parts where they stand: ``written``, with the path, or why they can't be."""
    from ..formats.drawings import write_drawing
    from ..operations.importing import outlines_of

    def written() -> Path:
        try:
            write_drawing(path, outlines_of(document, poses, parts), document.units.length)
        except OSError as error:
            raise located("", str(error.strerror or error)) from error
        return path

    _told(tell, "written", written)


def _drawing(path: Path, work: CancellationToken) -> "Drawing":
    from ..formats.drawings.bounded import read_within

    if path not in _drawings:
        _drawings[path] = read_within(path, work)
    return _drawings[path]


_drawings: "dict[Path, Drawing]" = {}
"""The drawing that was read last."""


def _told(tell: Tell, what: str, found: Callable[[], object]) -> None:
    """Tells what was found, or the fault of the document or the request that hinders it."""
    try:
        tell(what, found())
    except DocumentError as error:
        tell(what, error)


TASKS: dict[str, Callable[..., None]] = {
    task.__name__: task
    for task in (
        analyse, ways, way, wiggle, try_out, study, read_drawing, outline_drawing, write_drawing,
    )
}
