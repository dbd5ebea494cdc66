"""Studies as tables, JSON and CSV, in the document's units."""

import math
from typing import Any

from ..document.model import Document
from ..formats.results import aligned
from ..formatting import in_document_units, shown
from ..joints import JOINT_TYPES
from ..kinds import Dimension
from .asked import all_judged
from .numbers import Numbers, dial, held, toleranced, worth
from .sweeping import Sweep, rows, table_csv
from .tolerances import Tolerances
from .travel import End, Travel
from .tuning import Tuning


def dial_shown(value: float, unit: str) -> str:
    """A parameter's value in its own unit."""
    number = f"{value:.9g}".replace("-", "−")
    return f"{number}°" if unit == "deg" else f"{number} {unit}".strip()


def numbers_in_words(document: Document, numbers: Numbers) -> str:
    """Numbers of a build in a few words: ``throw = 15.2 mm, rod = 42 mm``."""
    return ", ".join(f"{name} = {dial_shown(float(f'{worth(document, name, value):.7g}'), dial(document, name).unit)}"
                     for name, value in numbers.items())  # fmt: skip


def tuning_text(document: Document, found: Tuning) -> str:
    """What tuning found, in a few lines."""
    units, dial = document.units, found.dial
    wanted = shown(found.wanted, found.finding.dimension, units)
    lines = [f"{dial.name} is {dial_shown(dial.value, dial.unit)}; {found.finding.name} is to be {wanted}"]
    lines += [f"  {dial.name} = {dial_shown(value, dial.unit)}" for value in found.solutions]
    if not found.solutions:
        lines.append("  nothing in the range gives it")
    if found.flat:
        lines.append(f"  {dial.name} does not change it")
    elif found.nearest is not None:
        at, value = found.nearest
        nearest = shown(value, found.finding.dimension, units)
        lines.append(f"  the nearest that can be had is {nearest}, at {dial.name} = {dial_shown(at, dial.unit)}")
    for gap in found.breaks:
        ends = f"{dial_shown(gap.low, dial.unit)} to {dial_shown(gap.high, dial.unit)}"
        lines.append(f"  from {ends} it does not serve: {gap.reason}")
    return "\n".join(lines) + "\n"


def tuning_json(document: Document, found: Tuning) -> dict[str, Any]:
    """What tuning found."""
    def own(value: float) -> float | None:
        return None if math.isnan(value) else in_document_units(value, found.finding.dimension, document.units)

    nearest = found.nearest
    return {
        "parameter": found.dial.name, "unit": found.dial.unit, "was": found.dial.value, "finding": found.finding.name,
        "wanted": own(found.wanted), "solutions": list(found.solutions),
        "nearest": None if nearest is None else {"parameter": nearest[0], "value": own(nearest[1])},
        "breaks": [{"from": gap.low, "to": gap.high, "reason": gap.reason} for gap in found.breaks],
        "curve": [[at, own(value)] for at, value in found.curve.tolist()],
    }  # fmt: skip


def tuning_csv(document: Document, found: Tuning) -> str:
    """The curve of the finding over the parameter."""
    return table_csv([found.dial.name, found.finding.name], tuning_json(document, found)["curve"])


def sweep_text(found: Sweep) -> str:
    """A line a build."""
    head, table = rows(found)

    def cell(value: Any) -> str:
        if isinstance(value, bool):
            return "yes" if value else "no"
        return "–" if value is None else f"{value:.6g}" if isinstance(value, float) else str(value)

    text = aligned([head, *([cell(value) for value in row] for row in table)], right=())
    passing = sum(build.passes for build in found.builds)
    return f"{text}\n{passing} of {len(found.builds)} builds pass {all_judged(found.document, found.left_out)}\n"


def sweep_json(found: Sweep) -> dict[str, Any]:
    """The table of a sweep."""
    head, table = rows(found)
    return {
        "parameters": [{"name": axis.dial.name, "unit": axis.dial.unit, "values": list(axis.values)}
                       for axis in found.axes],
        "columns": head, "builds": table, "not_judged": list(found.left_out),
    }  # fmt: skip


def tolerances_text(found: Tolerances) -> str:
    """What tolerances do to each check."""
    units = found.document.units
    lines = []
    known = held(found.document)
    for name, given in toleranced(found.document).items():
        lines.append((name, str(known[name].parameter.expression), f"±{given.by:g}", given.spread))
    text = aligned([("parameter", "value", "off by", "spread"), *lines], right=())
    table: list[tuple[str, ...]] = [("check", "of its", "passes", "95 %", "mean", "σ", "least", "greatest",
                                      "worst case", "what matters most")]
    for one in found.spreads:
        cells = [shown(value, one.dimension, units) if math.isfinite(value) else "–"
                for value in (one.mean, one.deviation, one.least, one.greatest, *one.worst)]  # fmt: skip
        most = max(one.matters, key=lambda name: one.matters[name], default="")
        matters = f"{most} ({100 * one.matters[most]:.0f} %)" if most and one.matters[most] > 0.005 else "–"
        worst = f"{cells[4]} to {cells[5]}, {'passes' if one.worst_passes else 'does not pass'}"
        table.append((one.check, one.of, f"{100 * one.share:.4g} %",
                      f"{100 * one.low_share:.2f} to {100 * one.high_share:.2f} %", *cells[:4], worst, matters))
    end = f"{found.count} builds of seed {found.seed}: {100 * found.passing:.4g} % pass "
    end += all_judged(found.document, found.left_out)
    end += f"; {found.broken} did not move to their end" if found.broken else ""
    apart = "".join(f"{one.why_apart}\n" for one in found.spreads if one.why_apart)
    return f"{text}\n{aligned(table, right=())}\n{end}\n{apart}"


def tolerances_json(found: Tolerances) -> dict[str, Any]:
    """The same as an object."""
    units = found.document.units

    def own(value: float, dimension: str) -> float | None:
        return in_document_units(value, dimension, units) if math.isfinite(value) else None

    return {
        "builds": found.count, "seed": found.seed, "broken": found.broken, "passing": found.passing,
        "not_judged": list(found.left_out),
        "checks": {
            one.check: {
                "of": one.of, "passing": one.share, "interval": [one.low_share, one.high_share],
                "mean": own(one.mean, one.dimension), "deviation": own(one.deviation, one.dimension),
                "min": own(one.least, one.dimension), "max": own(one.greatest, one.dimension),
                "worst_case": [own(value, one.dimension) for value in one.worst],
                "worst_case_passes": one.worst_passes, "variance_shares": dict(one.matters),
            }
            for one in found.spreads
        },
    }  # fmt: skip


def tolerances_csv(found: Tolerances) -> str:
    """A row a build: what each parameter is off by, and the value of each check."""
    units = found.document.units
    head = [*found.deviations, *(f"{one.check}.{one.of}" for one in found.spreads)]
    columns = [list(each) for each in found.deviations.values()]
    for one in found.spreads:
        columns.append([in_document_units(value, one.dimension, units) if math.isfinite(value) else None
                        for value in found.values[one.check].tolist()])  # fmt: skip
    return table_csv(head, [list(row) for row in zip(*columns, strict=True)])


BY = {"limit": "limit", "contact": "contact", "dead point": "dead point", "full turn": "turn", "no end": "none"}
"""What ends a travel, as the file contract says it."""


def travel_text(document: Document, found: Travel) -> str:
    """The free travel of a joint, a line an end."""
    dimension = _counts(document, found.joint)
    lines = [f"{found.joint} stands at {shown(found.here, dimension, document.units)} and is free over "
             f"{shown(found.whole, dimension, document.units)}"]  # fmt: skip
    lines += [f"  {word} {end.text}" for word, end in (("lowest", found.low), ("highest", found.high))]
    return "\n".join(lines) + "\n"


def travel_json(document: Document, found: Travel) -> dict[str, Any]:
    """The same as an object."""
    dimension = _counts(document, found.joint)

    def own(end: End) -> dict[str, Any]:
        value = in_document_units(end.value, dimension, document.units)
        return {"value": value, "by": BY[end.reason], "what": list(end.what), "text": end.text}

    here = in_document_units(found.here, dimension, document.units)
    return {"joint": found.joint, "here": here, "low": own(found.low), "high": own(found.high)}


def travel_csv(document: Document, found: Travel) -> str:
    """A row an end."""
    said = travel_json(document, found)
    return table_csv(["end", "value", "by", "what"], [
        [end, said[end]["value"], said[end]["by"], " ".join(said[end]["what"])] for end in ("low", "high")
    ])  # fmt: skip


def _counts(document: Document, joint: str) -> Dimension:
    one = document.joints[joint]
    return JOINT_TYPES[one.type].coordinate_dimension(one.values) or Dimension.LENGTH
