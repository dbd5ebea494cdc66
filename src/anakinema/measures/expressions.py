"""An expression of measures of the document: a difference, a ratio, the larger of two."""

from typing import TYPE_CHECKING

import numpy as np

from ..arrays import Array
from ..errors import located
from ..kinds import Field, FieldForm
from .base import Infinite, OverTime

if TYPE_CHECKING:
    from ..document.model import Document, Measure
    from ..kinematics.motion import Motion


class Expression(OverTime):
    """Taken moment by moment; what is one number for the whole motion is that at every moment."""

    name, title = "expression", "Expression"
    description = "an expression of parameters and of measures of the document: `lift / stroke`, `abs(left - right)`"
    fields = (Field("expression", form=FieldForm.EXPRESSION, required=True, description="names measures by their ids"),)
    dimension, first_bound = None, "both"

    def at(self, measure: "Measure", motion: "Motion", t: Array) -> Array:
        from . import MEASURE_TYPES

        columns: dict[str, list[float]] = {}
        for name, one in operands(measure, motion.document).items():
            kind = MEASURE_TYPES[one.kind]
            if isinstance(kind, OverTime):
                columns[name] = kind.at(one, motion, t).tolist()
            else:
                columns[name] = [kind.ends(one, motion).high] * t.size
        counts, text, found = measure.values["operands"], measure.values["expression"], np.empty(t.size)
        for k in range(t.size):
            given = {name: (columns[name][k], dimension) for name, dimension in counts}
            try:
                found[k] = motion.document.worked_out(text, given, measure.values["counts"])
            except ValueError as error:
                raise located(f"measures.{measure.id}", f"at {float(t[k]):.6g} s: {error}") from error
        return found

    def infinite(self, measure: "Measure", motion: "Motion") -> list[Infinite]:
        from . import MEASURE_TYPES

        found = []
        for name, one in operands(measure, motion.document).items():
            kind = MEASURE_TYPES[one.kind]
            for beyond in kind.infinite(one, motion) if isinstance(kind, OverTime) else ():
                found += [Infinite(beyond.t, sign, f"'{name}' is {beyond.why}") for sign in (-1.0, 1.0)]
        return found


def operands(measure: "Measure", document: "Document") -> "dict[str, Measure]":
    """The measures that an expression names."""
    return {name: document.measures[name] for name, _ in measure.values["operands"]}
