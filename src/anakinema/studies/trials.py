"""The log of trials: every accepted change as a row, with what the checks said before and after.

A row keeps the change itself, place by place, so that any of them can be gone back to exactly: from where one stands
all later rows are undone, the latest first.
"""

from collections.abc import Mapping, Sequence
from typing import Any

from ..document.changes import Change, Remove, Set, lookup
from ..document.model import Document
from ..formatting import shown

SECTION = "trials"
MOST = 2000
"""Rows that a file keeps; the oldest without a star go first."""
ABSENT: dict[str, Any] = {}
Row = dict[str, Any]
Difference = dict[str, Any]


def rows(document: Document) -> list[Row]:
    """The log in a document."""
    return [dict(row) for row in document.tree.get(SECTION, [])]


def difference(before: Any, after: Any, place: tuple[str | int, ...] = ()) -> list[Difference]:
    """The places in which two trees differ, as deep as they can be told: ``{"place", "from", "to"}``, without ``from``
    or ``to`` where nothing stands. The log itself does not count."""
    if before is after:
        return []
    if isinstance(before, Mapping) and isinstance(after, Mapping):
        found = []
        for key in dict.fromkeys([*before, *after]):
            if not place and key == SECTION:
                continue
            here = (*place, key)
            if key not in after:
                found.append({"place": list(here), "from": before[key]})
            elif key not in before:
                found.append({"place": list(here), "to": after[key]})
            else:
                found += difference(before[key], after[key], here)
        return found
    if isinstance(before, list) and isinstance(after, list) and len(before) == len(after):
        return [one for i, (old, new) in enumerate(zip(before, after, strict=True))
                for one in difference(old, new, (*place, i))]  # fmt: skip
    return [] if before == after and type(before) is type(after) else [
        {"place": list(place), "from": before, "to": after}
    ]


def undoing(log: Sequence[Row], number: int) -> list[Change]:
    """The changes that lead from the end of the log back to how things stood after row `number` (−1: before all)."""
    found: list[Change] = []
    for row in reversed(log[number + 1 :]):
        for one in reversed(row.get("changes", [])):
            place = tuple(one["place"])
            found.append(Set(place, one["from"]) if "from" in one else Remove(place))
    return found


def follows(document: Document, log: Sequence[Row], number: int) -> bool:
    """Whether what the later rows changed still stands as they left it, so that they can be undone."""
    seen: set[tuple[Any, ...]] = set()
    for row in reversed(log[number + 1 :]):
        for one in row.get("changes", []):
            place = tuple(one["place"])
            if place in seen:
                continue
            seen.add(place)
            if lookup(document.tree, list(place), ABSENT) != one.get("to", ABSENT):
                return False
    return True


def compared(log: Sequence[Row], one: int, two: int) -> list[tuple[str, str, str]]:
    """What differs between how things stood after two rows, the earlier one first: what it is, what it was then and is
    now; first what was changed, place by place, then every check with its value and how it came out."""
    first, second = sorted((one, two))
    found: dict[tuple[Any, ...], Difference] = {}
    for row in log[first + 1 : second + 1]:
        for each in row.get("changes", []):
            place = tuple(each["place"])
            before = found.get(place, each)
            ends = {"from": before.get("from", ABSENT), "to": each.get("to", ABSENT)}
            found[place] = {"place": each["place"]} | {key: one for key, one in ends.items() if one is not ABSENT}
    changed = [each for each in found.values() if each.get("from", ABSENT) != each.get("to", ABSENT)]
    before, after = log[first].get("after") or {}, log[second].get("after") or {}
    lines = [said([each]) for each in changed]
    lines += [(f"check {name}", _said(before.get(name)), _said(after.get(name)))
              for name in dict.fromkeys([*before, *after])]  # fmt: skip
    return lines


def said(change: Sequence[Difference]) -> tuple[str, str, str]:
    """What changed, from what, to what, in a few words: of several places the first and how many more."""
    if not change:
        return "nothing", "", ""
    first, more = change[0], len(change) - 1
    where = ".".join(map(str, first["place"]))
    what = f"{where} and {more} more" if more else where
    return what, _short(first, "from"), _short(first, "to")


def _short(one: Difference, side: str) -> str:
    toleranced = _by(one.get("from")) or _by(one.get("to"))
    if toleranced:
        return f"± {_by(one.get(side)) or 'none'}"
    if side not in one:
        return "–"
    value = one[side]
    if isinstance(value, Mapping) and "value" in value:  # a parameter with a note or a tolerance
        value = value["value"]
    text = "…" if isinstance(value, (Mapping, list)) else str(value)
    return text if len(text) <= 40 else text[:39] + "…"


def _by(value: Any) -> str:
    """The tolerance of a parameter that says one, in words."""
    given = value.get("tolerance", "") if isinstance(value, Mapping) else ""
    return str(given.get("by", "") if isinstance(given, Mapping) else given)


def verdicts_told(findings: Any) -> dict[str, list[str]]:
    """Every check in a pair of words: its value, how it came out."""
    units = findings.document.units
    return {
        name: ["–" if one.value is None else shown(one.value, one.dimension, units), str(one.outcome)]
        for name, one in findings.verdicts.items()
    }


def bounded(log: list[Row]) -> list[Row]:
    """No more rows than a file keeps: the oldest go, but for those with a star."""
    over = len(log) - MOST
    kept = []
    for row in log:
        if over > 0 and not row.get("star"):
            over -= 1
            continue
        kept.append(row)
    return kept


def table(log: Sequence[Row]) -> list[tuple[str, ...]]:
    """A line a row, under a head: number, time, what, from, to, the checks that came out otherwise, note."""
    found: list[tuple[str, ...]] = [("", "time", "what", "from", "to", "checks", "note")]
    for number, row in enumerate(log, 1):
        what, old, new = said(row.get("changes", []))
        star = "★" if row.get("star") else ""
        found.append((f"{number}{star}", str(row.get("time", "")), what, old, new, checks_told(row),
                      str(row.get("note", ""))))  # fmt: skip
    return found


def checks_told(row: Row) -> str:
    """How the checks that changed came out before and after."""
    before, after = row.get("before") or {}, row.get("after") or {}
    differences = []
    for name in dict.fromkeys([*before, *after]):
        old, new = before.get(name), after.get(name)
        if old != new:
            differences.append(f"{name} {_said(old)} → {_said(new)}")
    return ", ".join(differences)


def _said(check: Sequence[str] | None) -> str:
    return "–" if not check else f"{check[0]} {check[1]}"


def text(log: Sequence[Row]) -> str:
    """The log for a terminal."""
    from ..formats.results import aligned

    return aligned(table(log), right=()) if log else "no trials in this document\n"


def as_csv(log: Sequence[Row]) -> str:
    """The log as CSV."""
    from .sweeping import table_csv

    head, *lines = table(log)
    return table_csv(["number", *head[1:]], [list(line) for line in lines])
