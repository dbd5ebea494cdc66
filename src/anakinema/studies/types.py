"""The studies, declared once: what each is called, how it is asked for on a command line, how it runs, and how what it
finds is written as text, table and object. The command line, the compute process and the window read this table.

What computes is loaded when it is asked for: a command line that only lists its commands needs none of it.
"""

import argparse
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from typing import TYPE_CHECKING, Any, ClassVar, Generic, TypeVar

import numpy as np

from ..arguments import whole
from ..cancellation import CancellationToken
from ..document.expressions import ExpressionError, coerce, evaluate
from ..document.model import Document
from ..errors import located
from ..kinds import Dimension

if TYPE_CHECKING:
    from ..arrays import Array
    from ..clearance.swept import Swept
    from ..kinematics.motion import Motion
    from .arranging import Arrangement
    from .cam_proposals import CamProposal
    from .sweeping import Sweep
    from .tolerances import Tolerances
    from .travel import Travel
    from .trials import Row
    from .tuning import Tuning

Found = TypeVar("Found")
"""What a study finds."""


class StudyType(Generic[Found]):
    """A kind of study."""

    name: ClassVar[str]
    title: ClassVar[str]
    """What it is called in the window."""
    description: ClassVar[str] = ""
    """What it does, for the command line; one without is asked for in the window alone."""

    def options(self, command: argparse.ArgumentParser) -> None:
        """What its command takes beside the file."""

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        """The arguments of `run` behind the document, from those of its command. Raises `DocumentError`."""
        return ()

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> Found:
        """What it finds. Raises `DocumentError`."""
        raise NotImplementedError

    def holds(self, found: Found) -> bool:
        """Whether what was found is as wanted; else its command ends with 1."""
        return True

    def write(self, options: argparse.Namespace, document: Document, found: Found) -> None:
        """Writes the files of its own that its command asks for. Raises `DocumentError` or `OSError`."""

    def text(self, document: Document, found: Found) -> str:
        """What was found, for a terminal."""
        raise NotImplementedError

    def csv(self, document: Document, found: Found) -> str:
        """What was found as a table."""
        raise NotImplementedError

    def json(self, document: Document, found: Found) -> Any:
        """All that was found, in the document's units."""
        raise NotImplementedError


class Tune(StudyType["Tuning"]):
    """Which values of one parameter give a finding what is wanted."""

    name, title = "tune", "Tune"
    description = "find the values of one parameter that give a finding what is wanted"

    def options(self, command: argparse.ArgumentParser) -> None:
        command.add_argument("parameter")
        command.add_argument("finding", help="checks.ID, joints.ID.travel|min|max or measures.ID.min|max")
        command.add_argument("--want", required=True, metavar="VALUE", help="what it is to be: 48, '48 mm', '2*throw'")
        command.add_argument("--from", dest="low", metavar="A", help="least value allowed, else half of what it is")
        command.add_argument("--to", dest="high", metavar="B", help="greatest value allowed, else 1.5 of what it is")

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        from .asked import finding
        from .numbers import dial

        asked, turned = finding(document, options.finding), dial(document, options.parameter)
        wanted = number(document, options.want, asked.dimension, "--want")
        ends = [None if text is None else number(document, text, turned.dimension, option)
                * turned.dimension.per_core(document.units)
                for option, text in (("--from", options.low), ("--to", options.high))]  # fmt: skip
        return None, options.parameter, options.finding, wanted, *ends

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "Tuning":
        from .tuning import tune

        motion, parameter, finding, wanted, low, high = asked
        return tune(document, parameter, finding, wanted, low, high, work, motion)

    def holds(self, found: "Tuning") -> bool:
        return bool(found.solutions)

    def text(self, document: Document, found: "Tuning") -> str:
        from .reports import tuning_text

        return tuning_text(document, found)

    def csv(self, document: Document, found: "Tuning") -> str:
        from .reports import tuning_csv

        return tuning_csv(document, found)

    def json(self, document: Document, found: "Tuning") -> Any:
        from .reports import tuning_json

        return tuning_json(document, found)


class SweepStudy(StudyType["Sweep"]):
    """Values of one parameter or two, as a table of what passes."""

    name, title = "sweep", "Sweep"
    description = "try values of one parameter or two, as a table of what passes"

    def options(self, command: argparse.ArgumentParser) -> None:
        command.add_argument("range", nargs="+", metavar="PARAMETER=A:B:N", help="N values from A to B")
        command.add_argument("--find", action="append", default=[], metavar="FINDING", help="a finding to tell as well")
        shared_work(command)

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        axes = []
        for text in options.range:
            name, _, span = text.partition("=")
            pieces = span.split(":")
            if len(pieces) != 3 or not pieces[2].strip().isdecimal():
                raise located(text, "a range is written PARAMETER=A:B:N, N values from A to B")
            from .numbers import dial

            turned = dial(document, name)
            low, high = (number(document, piece, turned.dimension, text) * turned.dimension.per_core(document.units)
                         for piece in pieces[:2])  # fmt: skip
            axes.append((name, low, high, int(pieces[2][:8])))
        return axes, options.find, not options.no_clearance, options.jobs, options.cluster

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "Sweep":
        from .sweeping import axis, sweep

        axes, findings, clearance, jobs, address = asked
        made = [axis(document, *one) for one in axes]
        with cluster(address):
            return sweep(document, made, findings, clearance, jobs, work)

    def text(self, document: Document, found: "Sweep") -> str:
        from .reports import sweep_text

        return sweep_text(found)

    def csv(self, document: Document, found: "Sweep") -> str:
        from .sweeping import rows, table_csv

        return table_csv(*rows(found))

    def json(self, document: Document, found: "Sweep") -> Any:
        from .reports import sweep_json

        return sweep_json(found)


class TolerancesStudy(StudyType["Tolerances"]):
    """Many builds that are not quite what they should be."""

    name, title = "tolerances", "Tolerances"
    description = "what the tolerances of parameters do to the checks"

    def options(self, command: argparse.ArgumentParser) -> None:
        command.add_argument("--builds", type=whole(1), default=1000, metavar="N", help="random builds (default 1000)")
        command.add_argument("--seed", type=whole(0), default=1, metavar="S",
                             help="seed of the random numbers (default 1)")  # fmt: skip
        shared_work(command)

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        return options.builds, options.seed, not options.no_clearance, options.jobs, options.cluster

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "Tolerances":
        from .tolerances import tolerances

        count, seed, clearance, jobs, address = asked
        with cluster(address):
            return tolerances(document, count, seed, clearance, jobs, work)

    def holds(self, found: "Tolerances") -> bool:
        return found.passing == 1.0 and all(one.worst_passes for one in found.spreads)

    def text(self, document: Document, found: "Tolerances") -> str:
        from .reports import tolerances_text

        return tolerances_text(found)

    def csv(self, document: Document, found: "Tolerances") -> str:
        from .reports import tolerances_csv

        return tolerances_csv(found)

    def json(self, document: Document, found: "Tolerances") -> Any:
        from .reports import tolerances_json

        return tolerances_json(found)


class TrialsStudy(StudyType["list[Row]"]):
    """The log of what was tried."""

    name, title = "trials", "Trials"
    description = "the log of trials, in the order of time"

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "list[Row]":
        from .trials import rows

        return rows(document)

    def text(self, document: Document, found: "list[Row]") -> str:
        from .trials import text

        return text(found)

    def csv(self, document: Document, found: "list[Row]") -> str:
        from .trials import as_csv

        return as_csv(found)

    def json(self, document: Document, found: "list[Row]") -> Any:
        return {"trials": found}


class TravelStudy(StudyType["Travel"]):
    """How far a joint goes both ways from where it stands, and what ends it."""

    name, title = "travel", "Free travel"
    description = "how far a joint can go both ways from where it is placed, and what ends it"

    def options(self, command: argparse.ArgumentParser) -> None:
        command.add_argument("joint", metavar="JOINT")

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        if options.joint not in document.joints:
            from ..errors import suggestion

            known = suggestion(options.joint, list(document.joints))
            raise located(f"joints.{options.joint}", f"there is no such joint{known}")
        return None, None, options.joint

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "Travel":
        from ..kinematics.simulation import simulate
        from .travel import free_travel

        motion: Motion | None
        q: Array | None
        motion, q, joint = asked
        if motion is None or q is None:
            motion = simulate(document, work=work.part(0.0, 0.1))
            q = motion.positions(np.zeros(1))[0]
        return free_travel(motion, q, joint, work)

    def text(self, document: Document, found: "Travel") -> str:
        from .reports import travel_text

        return travel_text(document, found)

    def csv(self, document: Document, found: "Travel") -> str:
        from .reports import travel_csv

        return travel_csv(document, found)

    def json(self, document: Document, found: "Travel") -> Any:
        from .reports import travel_json

        return travel_json(document, found)


class ArrangeStudy(StudyType["Arrangement"]):
    """The fewest layers in which nothing collides."""

    name, title = "arrange", "Arrange layers"
    description = "the fewest layers in which nothing collides through the whole motion"

    def options(self, command: argparse.ArgumentParser) -> None:
        command.add_argument("--hold", action="append", default=[], metavar="PART", help="a part that keeps its depth")
        command.add_argument("--gap", default="0", metavar="G", help="what is left between two layers, else none")
        command.add_argument("--take", metavar="OUT", help="write the document as it is proposed")

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        return options.hold, number(document, options.gap, Dimension.LENGTH, "--gap")

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "Arrangement":
        from .arranging import arrange

        held, gap, *motion = asked
        return arrange(document, held, gap, motion[0] if motion else None, work)

    def holds(self, found: "Arrangement") -> bool:
        return found.possible

    def write(self, options: argparse.Namespace, document: Document, found: "Arrangement") -> None:
        if options.take and found.document is not None:
            from pathlib import Path

            from ..formats.project import save

            save(Path(options.take), found.document)

    def text(self, document: Document, found: "Arrangement") -> str:
        from .layer_reports import arrangement_text

        return arrangement_text(document, found)

    def csv(self, document: Document, found: "Arrangement") -> str:
        from .layer_reports import arrangement_csv

        return arrangement_csv(document, found)

    def json(self, document: Document, found: "Arrangement") -> Any:
        from .layer_reports import arrangement_json

        return arrangement_json(document, found)


class SweptStudy(StudyType["Swept"]):
    """The area that parts sweep."""

    name, title = "swept", "Swept area"
    description = "the area that parts sweep over the motion"

    def options(self, command: argparse.ArgumentParser) -> None:
        command.add_argument("part", nargs="+", metavar="PART", help="a part, or a group")
        command.add_argument("--on", default="", metavar="PART", help="seen from a part, else the frame")
        command.add_argument("--room", default="0", metavar="D", help="what is kept free around it, as for a guard")
        command.add_argument("--dxf", metavar="OUT", help="its outline as closed polylines")

    def asked(self, options: argparse.Namespace, document: Document) -> tuple[Any, ...]:
        return options.part, options.on, number(document, options.room, Dimension.LENGTH, "--room")

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "Swept":
        from ..clearance.swept import members, swept
        from ..kinematics.simulation import simulate

        names, on, room, *motion = asked
        parts = members(document, names, on)
        moved = motion[0] if motion else simulate(document, work=work.part(0.0, 0.5))
        work.check()
        return swept(moved, parts, on).grown(room)

    def write(self, options: argparse.Namespace, document: Document, found: "Swept") -> None:
        if options.dxf:
            from ..formats.areas import write_area_dxf

            write_area_dxf(found, options.dxf, document.units.length)

    def text(self, document: Document, found: "Swept") -> str:
        from .layer_reports import swept_text

        return swept_text(document, found)

    def csv(self, document: Document, found: "Swept") -> str:
        from .layer_reports import swept_csv

        return swept_csv(found)

    def json(self, document: Document, found: "Swept") -> Any:
        from .layer_reports import swept_json

        return swept_json(found)


class CamProposals(StudyType["list[CamProposal]"]):
    """What would make a cam better."""

    name, title = "cam_proposals", "Proposals for a cam"

    def run(self, work: CancellationToken, document: Document, *asked: Any) -> "list[CamProposal]":
        from .cam_proposals import proposals

        (joint,) = asked
        return proposals(document, joint, work)


STUDY_TYPES: dict[str, StudyType[Any]] = {
    one.name: one
    for one in (
        Tune(), SweepStudy(), TolerancesStudy(), TrialsStudy(), TravelStudy(), ArrangeStudy(), SweptStudy(),
        CamProposals(),
    )
}  # fmt: skip
"""The studies by name, in the order in which they are offered."""
Outcome = tuple[int, str, Callable[[], str], Callable[[], Any]]
"""Exit code, the text for the terminal, the CSV and the object of the JSON."""


def declare(sub: "argparse._SubParsersAction[Any]") -> None:
    """The commands of all studies that have one."""
    for one in STUDY_TYPES.values():
        if not one.description:
            continue
        command: argparse.ArgumentParser = sub.add_parser(one.name, help=one.description)
        command.add_argument("file")
        command.add_argument("--csv", metavar="OUT", help="the table")
        command.add_argument("--json", metavar="OUT", help="all that was found")
        one.options(command)


def act(options: argparse.Namespace, document: Document) -> Outcome:
    """What the study of a command finds. Raises `DocumentError`."""
    one = STUDY_TYPES[options.command]
    found = one.run(CancellationToken(), document, *one.asked(options, document))
    one.write(options, document, found)
    code = 0 if one.holds(found) else 1
    return code, one.text(document, found), lambda: one.csv(document, found), lambda: one.json(document, found)


def shared_work(command: argparse.ArgumentParser) -> None:
    """How a study of many builds may be made quicker."""
    command.add_argument("--no-clearance", action="store_true", help="leave checks of clearances out: much faster")
    command.add_argument("--jobs", type=whole(1, 1024), metavar="N",
                         help="processes to share the work (default: by its size)")  # fmt: skip
    command.add_argument("--cluster", metavar="ADDRESS", help="a Dask scheduler, or 'local' for one here")


def number(document: Document, text: str, dimension: Dimension, option: str) -> float:
    """A number or an expression of the document's parameters (core units). Raises `DocumentError`."""
    try:
        quantities = document.quantities
        return coerce(evaluate(text, quantities, document.units), dimension, document.units)
    except ExpressionError as error:
        raise located(option, str(error)) from error


def cluster(address: str | None) -> AbstractContextManager[Any]:
    """Where joblib works: this machine, or a Dask cluster. Raises `DocumentError` where there is none."""
    if address is None:
        return nullcontext()
    try:
        from dask.distributed import Client
    except ImportError as error:
        raise located("--cluster", "Dask is not installed; install anakinema[cluster]") from error
    from joblib import parallel_config

    try:
        client: Any = Client(n_workers=2, threads_per_worker=1) if address == "local" else Client(address, timeout=10)  # type: ignore[no-untyped-call]
    except (OSError, ValueError) as error:
        raise located("--cluster", f"no scheduler answers at {address}: {error}") from error
    return _AtCluster(client, parallel_config(backend="dask", wait_for_workers_timeout=20))


class _AtCluster:
    """Works at a cluster as long as it is entered."""

    def __init__(self, client: Any, config: Any) -> None:
        self.client, self.config = client, config

    def __enter__(self) -> Any:
        return self.config.__enter__()

    def __exit__(self, *error: object) -> None:
        self.config.__exit__(*error)
        self.client.close()
