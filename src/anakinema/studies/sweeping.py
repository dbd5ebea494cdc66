"""Sweeps: a design over one or two parameters, as a table and as a map of what passes."""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import product
from typing import Any

import numpy as np

from ..cancellation import CancellationToken
from ..document.model import Document
from ..errors import located
from ..findings.checks import Outcome
from ..formatting import in_document_units
from .asked import Build, Finding, finding, left_out
from .many import many_built
from .numbers import Dial, dial

MOST = 100_000
"""Builds of one sweep."""


@dataclass(frozen=True)
class Axis:
    """A parameter with the values that it takes (its own unit)."""

    dial: Dial
    values: tuple[float, ...]


@dataclass(frozen=True)
class Sweep:
    """Builds over the axes, the last axis fastest."""

    document: Document
    axes: tuple[Axis, ...]
    findings: tuple[Finding, ...]
    builds: tuple[Build, ...]
    left_out: tuple[str, ...] = ()
    """The checks that were not judged, for they are of clearances."""

    def values(self, number: int) -> tuple[float, ...]:
        """What the parameters are in a build."""
        found = []
        for axis in reversed(self.axes):
            number, place = divmod(number, len(axis.values))
            found.append(axis.values[place])
        return tuple(reversed(found))


def axis(document: Document, name: str, low: float, high: float, count: int) -> Axis:
    """Evenly spaced values of a parameter. Raises `DocumentError` for an empty range or too few of them."""
    if count < 2 or not low < high:
        raise located(f"parameters.{name}", f"at least 2 values from a lower to a higher one are wanted, "
                                            f"this is {count} from {low:g} to {high:g}")  # fmt: skip
    return Axis(dial(document, name), tuple(np.linspace(low, high, count).tolist()))


def sweep(
    document: Document,
    axes: Sequence[Axis],
    names: Sequence[str] = (),
    clearance: bool = True,
    jobs: int | None = None,
    work: CancellationToken | None = None,
) -> Sweep:
    """All builds over one or two axes. Raises `DocumentError` where there are too many, or one parameter twice."""
    if len({one.dial.name for one in axes}) != len(axes) or not 1 <= len(axes) <= 2:
        raise located("parameters", "a sweep runs over one parameter, or two that differ")
    count = int(np.prod([len(one.values) for one in axes]))
    if count > MOST:
        raise located("parameters", f"{count:,} builds are more than {MOST:,}; take fewer values")
    numbers = [
        {one.dial.name: one.dial.written(value) for one, value in zip(axes, values, strict=True)}
        for values in product(*(one.values for one in axes))
    ]
    findings = tuple(finding(document, name) for name in names)
    builds = tuple(many_built(document, numbers, names, clearance, jobs, work))
    return Sweep(document, tuple(axes), findings, builds, left_out(document, clearance))


def rows(found: Sweep) -> tuple[list[str], list[list[Any]]]:
    """The table of a sweep: its head, and a row a build, in document units: parameters, findings, each check's value
    and outcome, and why a motion stopped or a build could not be put together."""
    document, units = found.document, found.document.units
    checks = list(dict.fromkeys(name for build in found.builds for name in build.outcomes))
    head = [one.dial.name for one in found.axes] + [one.name for one in found.findings]
    head += [f"{name}{what}" for name in checks for what in (".value", ".outcome")] + ["passes", "trouble"]
    dimensions = {name: finding(document, f"checks.{name}").dimension for name in checks}

    def shown(value: float | None, dimension: str) -> float | None:
        return None if value is None else in_document_units(value, dimension, units)

    table: list[list[Any]] = []
    for number, build in enumerate(found.builds):
        row: list[Any] = list(found.values(number))
        row += [shown(build.values.get(one.name), one.dimension) for one in found.findings]
        for name in checks:
            row += [shown(build.found.get(name), dimensions[name]), str(build.outcomes.get(name, Outcome.NOT_JUDGED))]
        table.append([*row, build.passes, build.broken or build.stopped])
    return head, table


def table_csv(head: Sequence[str], table: Sequence[Sequence[Any]]) -> str:
    """A table as CSV: empty where there is no value, numbers with all their digits."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    for row in table:
        writer.writerow(["" if cell is None else str(cell).lower() if isinstance(cell, bool) else cell for cell in row])
    return out.getvalue()
