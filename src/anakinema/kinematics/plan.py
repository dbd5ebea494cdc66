"""The plan of solving: rows and bodies cut into blocks that can be solved one after the other, and, inside a block, the
order that keeps the envelope of its matrix narrow."""

from collections.abc import Sequence
from functools import lru_cache
from graphlib import TopologicalSorter

import numpy as np
from scipy import sparse
from scipy.sparse.csgraph import connected_components, maximum_bipartite_matching, reverse_cuthill_mckee

from ..arrays import Index
from .kernels.tables import Plan
from .primitives import TERMS, TermKind
from .rows import RowSpec

ORDERED_FROM = 5
"""Bodies in a block from which their order is worth a thought."""
KEPT = 8
"""Plans that are kept: an edit of a number changes none."""

Pattern = tuple[tuple[tuple[TermKind, int, int], ...], ...]
"""Of each row, the kind and the bodies of its terms."""


def pattern(specs: Sequence[RowSpec]) -> Pattern:
    """What of the rows a plan depends on."""
    return tuple(tuple((term.kind, term.a, term.b) for term in spec.terms) for spec in specs)


@lru_cache(KEPT)
def planned(written: Pattern, unknown: tuple[int, ...], count: int) -> Plan:
    """The plan of rows that are as many as the coordinates of the `unknown` ones of so many bodies, or more."""
    place = np.full(count, -1, dtype=np.int64)
    place[list(unknown)] = 3 * np.arange(len(unknown))
    touched = _touched(written, place)
    home = np.full((len(place), 2), -1, dtype=np.int64)
    first, rows, bodies = [(0, 0)], [], []
    reach: list[Index] = []
    for number, (chosen, loose) in enumerate(_blocks(written, unknown, place, touched)):
        members = _narrowed(loose, [touched[row] for row in chosen])
        home[members, 0], home[members, 1] = number, 3 * np.arange(len(members))
        spans = []
        for row in chosen:
            columns = [int(home[body, 1]) for body in touched[row] if home[body, 0] == number]
            spans.append((min(columns, default=0), max(columns, default=0) + 3, row))
        spans.sort()
        rows += [(row, min(low, i)) for i, (low, _, row) in enumerate(spans)]
        reach.append(_reach([span[0] for span in spans], [span[1] for span in spans], 3 * len(members)))
        bodies += members
        first.append((len(rows), len(bodies)))
    return Plan(
        first=np.array(first, dtype=np.int64),
        rows=np.array(rows, dtype=np.int64).reshape(-1, 2),
        bodies=np.array(bodies, dtype=np.int64),
        home=home,
        reach=np.concatenate([*reach, np.zeros((0, 2), dtype=np.int64)]),
    )


def _reach(low: list[int], high: list[int], columns: int) -> Index:
    """(columns, 2) the end of the rows that begin at or before each column, and of the columns that these reach."""
    k = np.arange(columns)
    below = np.maximum(np.searchsorted(low, k, side="right"), k + 1)
    furthest = np.maximum.accumulate(np.array([*high, columns if not high else high[-1]]))
    right = np.maximum(furthest[np.minimum(below, max(len(high), 1)) - 1], k + 1)
    return np.stack((below, np.minimum(np.maximum.accumulate(right), columns)), axis=1).astype(np.int64)


def ordered_bodies(specs: Sequence[RowSpec], unknown: Sequence[int], place: Index) -> list[int]:
    """The unknown bodies in an order that keeps neighbours together."""
    return _narrowed(list(unknown), _touched(pattern(specs), place))


def ordered_rows(specs: Sequence[RowSpec], unknown: Sequence[int], place: Index) -> Index:
    """(M,) the rows in an order that keeps those of neighbouring bodies together."""
    position = {body: i for i, body in enumerate(ordered_bodies(specs, unknown, place))}
    keys: list[int] = []
    for spec in specs:
        at = [position[body] for term in spec.terms for body in (term.a, term.b) if body in position]
        keys.append(min(at, default=0))
    return np.argsort(np.array(keys), kind="stable").astype(np.int64)


def _touched(rows: Pattern, place: Index) -> list[list[int]]:
    """The unknown bodies of each row."""
    free = set(np.flatnonzero(place >= 0).tolist())
    return [sorted({body for _, a, b in terms for body in (a, b) if body in free}) for terms in rows]


def _blocks(
    written: Pattern, unknown: Sequence[int], place: Index, touched: list[list[int]]
) -> list[tuple[list[int], list[int]]]:
    """Rows and bodies of each block, in an order in which each needs only those before.

    Rows and columns are matched one to one (a maximum matching of the Jacobian's pattern); what hangs together both
    ways is one block, and so are the three columns of a body. Where no full matching exists all is one block.
    """
    rows, columns = len(written), 3 * len(unknown)
    whole = [(list(range(rows)), list(unknown))]
    if rows != columns or rows == 0:
        return whole
    at = place.tolist()
    entries = {
        (row, at[body] + k)
        for row, terms in enumerate(written)
        for kind, *both in terms
        for body in both
        if at[body] >= 0
        for k in TERMS[kind].depends
    }
    row, column = np.array(sorted(entries), dtype=np.intp).reshape(-1, 2).T
    shape = (rows, columns)
    pattern = sparse.csr_matrix((np.ones(row.size), (row, column)), shape=shape)
    matched = maximum_bipartite_matching(pattern, perm_type="column")  # the column of each row
    if (matched < 0).any():
        return whole
    # Nodes are columns: a row's matched column needs every other column of the row.
    first = np.arange(0, columns, 3)
    sources = [matched[row], first, first + 1, first, first + 2]
    targets = [column, first + 1, first, first + 2, first]
    edges = (np.concatenate(sources), np.concatenate(targets))
    graph = sparse.csr_matrix((np.ones(edges[0].size), edges), shape=(columns,) * 2)
    count, label = connected_components(graph, directed=True, connection="strong")
    sorter: TopologicalSorter[int] = TopologicalSorter({i: set() for i in range(count)})
    for i, j in set(zip(label[edges[0]].tolist(), label[edges[1]].tolist(), strict=True)):
        if i != j:
            sorter.add(i, j)
    rows_of: list[list[int]] = [[] for _ in range(count)]
    bodies_of: list[list[int]] = [[] for _ in range(count)]
    for index, at in enumerate(matched.tolist()):
        rows_of[label[at]].append(index)
    for k, body in enumerate(unknown):
        bodies_of[label[3 * k]].append(body)
    return [(rows_of[block], bodies_of[block]) for block in sorter.static_order()]


def _narrowed(members: list[int], touched: list[list[int]]) -> list[int]:
    """The bodies of a block in an order that keeps neighbours together (reverse Cuthill–McKee)."""
    if len(members) < ORDERED_FROM:
        return members
    number = {body: i for i, body in enumerate(members)}
    pairs = {
        (number[one], number[two]) for bodies in touched for one in bodies for two in bodies
        if one in number and two in number
    }
    row, column = np.array(sorted(pairs)).T
    graph = sparse.csr_matrix((np.ones(row.size), (row, column)), shape=(len(members),) * 2)
    return [members[i] for i in reverse_cuthill_mckee(graph, symmetric_mode=True).tolist()]
