"""The shipped tables: of each standard its sizes, lengths in its own unit, and where the numbers come from."""

import csv
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib import resources

from ..kinds import MM_IN
from .kinds import KINDS, HardwareKind

HOLES = "clearance-holes.csv"


@dataclass(frozen=True)
class Row:
    """A size of a table: its dimensions by name, and the lengths in which it is made (mm)."""

    size: str
    sizes: Mapping[str, float]
    lengths: tuple[float, ...] = ()

    def __getitem__(self, name: str) -> float:
        return self.sizes[name]


@dataclass(frozen=True)
class Table:
    """What a standard makes: of one kind, in sizes. Lengths in mm, whatever the unit of the standard is."""

    standard: str
    title: str
    kind: HardwareKind
    unit: str
    source: str
    rows: Mapping[str, Row] = field(repr=False)


@dataclass(frozen=True)
class Clearance:
    """Diameters of clearance holes for a screw (mm): fine, medium, coarse."""

    fine: float
    medium: float
    coarse: float


def _read(text: str) -> tuple[dict[str, str], list[dict[str, str]]]:
    """The words above a table, and its rows."""
    lines = text.splitlines()
    words = dict(line.removeprefix("# ").partition(":")[::2] for line in lines if line.startswith("#"))
    rows = csv.DictReader(line for line in lines if not line.startswith("#"))
    return {key: value.strip() for key, value in words.items()}, list(rows)


def _texts() -> Iterator[tuple[str, str]]:
    here = resources.files(__package__).joinpath("tables")
    for file in sorted(here.iterdir(), key=lambda each: each.name):
        if file.name.endswith(".csv"):
            yield file.name, file.read_text("utf-8")


def _table(text: str) -> Table:
    words, entries = _read(text)
    per = MM_IN[words["unit"]]
    lengths = [float(each) * per for each in words["lengths"].split()]
    rows = {}
    for entry in entries:
        sizes = {key: float(value) * per for key, value in entry.items() if key != "size"}
        made = tuple(each for each in lengths if sizes.get("least", 0.0) <= each <= sizes.get("most", 0.0))
        rows[entry["size"]] = Row(entry["size"], sizes, made)
    return Table(words["standard"], words["title"], KINDS[words["kind"]], words["unit"], words["source"], rows)


@cache
def _tables() -> dict[str, Table]:
    found = (_table(text) for name, text in _texts() if name != HOLES)
    return {one.standard: one for one in found}


class _Tables(Mapping[str, Table]):
    """All tables by their standard, read when they are first wanted."""

    def __getitem__(self, standard: str) -> Table:
        return _tables()[standard]

    def __iter__(self) -> Iterator[str]:
        return iter(_tables())

    def __len__(self) -> int:
        return len(_tables())


TABLES: Mapping[str, Table] = _Tables()


def table(standard: str) -> Table | None:
    """The table of a standard, however it is spelt.

    >>> table("iso 4762").title
    'Socket head screw'
    """
    known = {name.casefold().replace(" ", ""): one for name, one in TABLES.items()}
    return known.get(standard.casefold().replace(" ", ""))


@cache
def _holes() -> dict[str, Clearance]:
    text = next(text for name, text in _texts() if name == HOLES)
    _, entries = _read(text)
    return {
        entry["size"]: Clearance(*(float(entry[key]) * MM_IN[entry["unit"]] for key in ("fine", "medium", "coarse")))
        for entry in entries
    }  # fmt: skip


def clearance_hole(size: str) -> Clearance | None:
    """The clearance holes for a thread (ISO 273, ASME B18.2.8; from memory).

    >>> clearance_hole("M6").medium
    6.6
    """
    return _holes().get(size)
