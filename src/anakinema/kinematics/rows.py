"""Constraint rows as they are written down, and as the arrays that the compiled loops read."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from ..laws import LawPiece
from .kernels.tables import Table
from .primitives import TERMS, TermKind, TermSpec


@dataclass(frozen=True)
class TermLaw:
    """A law through which a term is seen: of its value less `start`, within a `period` if that is not zero."""

    pieces: tuple[LawPiece, ...]
    start: float = 0.0
    period: float = 0.0


@dataclass(frozen=True)
class Term:
    """A primitive function of the positions of bodies `a` and `b`; see `primitives`. Through a `law` it is a function
    of that function."""

    kind: TermKind
    a: int
    b: int
    pa: tuple[float, float] = (0.0, 0.0)
    pb: tuple[float, float] = (0.0, 0.0)
    constant: float = 0.0
    coefficient: float = 1.0
    law: TermLaw | None = None

    @property
    def spec(self) -> TermSpec:
        """What is known of its kind."""
        return TERMS[self.kind]


@dataclass(frozen=True)
class RowSpec:
    """One row: the sum of its terms times their coefficients, less `offset`. `owner` names what made it; `target` is
    the column of the target vector that its value must equal, or −1 for zero."""

    terms: tuple[Term, ...]
    owner: str
    offset: float = 0.0
    target: int = -1
    period: float = 0.0
    """Amount by which its value may differ without meaning anything else (whole turns of an angle that is held)."""


def tabled(specs: Sequence[RowSpec]) -> Table:
    """The specs as the arrays that the compiled loops read."""
    terms = [term for spec in specs for term in spec.terms]
    laws = list(dict.fromkeys(term.law for term in terms if term.law is not None))
    ends = np.cumsum([0, *(len(law.pieces) for law in laws)]).tolist()
    where = {None: (0.0, 0.0, 0.0, 0.0)} | {
        law: (start, stop, law.start, law.period) for law, (start, stop) in zip(laws, pairwise(ends), strict=True)
    }
    turns = [[abs(term.coefficient) for term in spec.terms if term.spec.periodic] for spec in specs]
    return Table(
        bodies=np.array([(term.spec.code, term.a, term.b) for term in terms], dtype=np.int64).reshape(-1, 3),
        numbers=np.array(
            [
                (*term.pa, *term.pb, term.constant, math.cos(term.constant), math.sin(term.constant), term.coefficient,
                 *where[term.law])
                for term in terms
            ],
            dtype=float,
        ).reshape(-1, 12),
        first=np.cumsum([0, *(len(spec.terms) for spec in specs)], dtype=np.int64),
        target=np.array([spec.target for spec in specs], dtype=np.int64),
        sizes=np.array(
            [
                (spec.offset, spec.period or 2 * math.pi * min(turn, default=0.0))
                for spec, turn in zip(specs, turns, strict=True)
            ],
            dtype=float,
        ).reshape(-1, 2),
        pieces=np.array(
            [(piece.start, *piece.terms, piece.amplitude, piece.frequency, piece.phase)
             for law in laws for piece in law.pieces],
            dtype=float,
        ).reshape(-1, 12),
    )
