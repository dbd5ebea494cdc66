"""The commands of studies: ``anakinema tune``, ``anakinema sweep``, ``anakinema tolerances``, ``anakinema trials``."""

import argparse
from collections.abc import Callable
from contextlib import AbstractContextManager, nullcontext
from typing import Any

from ..arguments import whole
from ..document.expressions import ExpressionError, coerce, evaluate
from ..document.model import Document
from ..errors import located
from ..kinds import Dimension

NAMES = ("tune", "sweep", "tolerances", "trials")
Outcome = tuple[int, str, Callable[[], str], Callable[[], Any]]
"""Exit code, the text for the terminal, the CSV and the object of the JSON."""


def declare(sub: "argparse._SubParsersAction[Any]") -> None:
    """Their options."""
    tune = _command(sub, "tune", "find the values of one parameter that give a finding what is wanted")
    tune.add_argument("parameter")
    tune.add_argument("finding", help="checks.ID, joints.ID.travel|min|max or measures.ID.min|max")
    tune.add_argument("--want", required=True, metavar="VALUE", help="what it is to be: 48, '48 mm', '2*throw'")
    tune.add_argument("--from", dest="low", metavar="A", help="least value allowed, else half of what it is")
    tune.add_argument("--to", dest="high", metavar="B", help="greatest value allowed, else one and a half of it")
    sweep = _command(sub, "sweep", "try values of one parameter or two, as a table of what passes")
    sweep.add_argument("range", nargs="+", metavar="PARAMETER=A:B:N", help="N values from A to B")
    sweep.add_argument("--find", action="append", default=[], metavar="FINDING", help="a finding to tell as well")
    spread = _command(sub, "tolerances", "what the tolerances of parameters do to the checks")
    spread.add_argument("--builds", type=whole(1), default=1000, metavar="N", help="random builds (default 1000)")
    spread.add_argument("--seed", type=whole(0), default=1, metavar="S", help="seed of the random numbers (default 1)")
    for command in (sweep, spread):
        command.add_argument("--no-clearance", action="store_true", help="leave checks of clearances out: much faster")
        command.add_argument("--jobs", type=whole(1, 1024), metavar="N",
                             help="processes to share the work (default: by its size)")  # fmt: skip
        command.add_argument("--cluster", metavar="ADDRESS", help="a Dask scheduler, or 'local' for one here")
    _command(sub, "trials", "the log of what was tried, in the order of time")


def _command(sub: "argparse._SubParsersAction[Any]", name: str, description: str) -> argparse.ArgumentParser:
    command: argparse.ArgumentParser = sub.add_parser(name, help=description)
    command.add_argument("file")
    command.add_argument("--csv", metavar="OUT", help="the table")
    command.add_argument("--json", metavar="OUT", help="all that was found")
    return command


def act(options: argparse.Namespace, document: Document) -> Outcome:
    """What a command finds. Raises `DocumentError`."""
    name: str = options.command
    outcome: Outcome = {"tune": _tune, "sweep": _sweep, "tolerances": _tolerances, "trials": _trials}[name](
        options, document
    )
    return outcome


def _tune(options: argparse.Namespace, document: Document) -> Outcome:
    from . import reports
    from .asked import finding
    from .numbers import dial
    from .tuning import tune

    asked, turned = finding(document, options.finding), dial(document, options.parameter)
    wanted = number(document, options.want, asked.dimension, "--want")
    ends = [None if text is None else number(document, text, turned.dimension, option)
            * turned.dimension.per_core(document.units)
            for option, text in (("--from", options.low), ("--to", options.high))]  # fmt: skip
    found = tune(document, options.parameter, options.finding, wanted, ends[0], ends[1])
    return (0 if found.solutions else 1, reports.tuning_text(document, found),
            lambda: reports.tuning_csv(document, found), lambda: reports.tuning_json(document, found))  # fmt: skip


def _sweep(options: argparse.Namespace, document: Document) -> Outcome:
    from . import reports
    from .sweeping import axis, rows, sweep, table_csv

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
        axes.append(axis(document, name, low, high, int(pieces[2][:8])))
    with cluster(options.cluster):
        found = sweep(document, axes, options.find, not options.no_clearance, options.jobs)
    return 0, reports.sweep_text(found), lambda: table_csv(*rows(found)), lambda: reports.sweep_json(found)


def _tolerances(options: argparse.Namespace, document: Document) -> Outcome:
    from . import reports
    from .tolerances import tolerances

    with cluster(options.cluster):
        found = tolerances(document, options.builds, options.seed, not options.no_clearance, options.jobs)
    code = 0 if found.passing == 1.0 and all(one.worst_passes for one in found.spreads) else 1
    return (
        code,
        reports.tolerances_text(found),
        lambda: reports.tolerances_csv(found),
        lambda: reports.tolerances_json(found),
    )


def _trials(options: argparse.Namespace, document: Document) -> Outcome:
    from . import trials

    rows = trials.rows(document)
    return 0, trials.text(rows), lambda: trials.as_csv(rows), lambda: {"trials": rows}


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
