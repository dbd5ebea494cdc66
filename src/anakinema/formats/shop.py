"""What is found without being asked, and cautions, as text and object."""

from typing import Any

from ..findings.analysis import Findings
from ..findings.cautions import USUAL, Caution
from ..findings.shop import ShopFinding
from .driving import driver_value


def shop_text(findings: Findings) -> str:
    """The findings and the cautions, a line each; those that are waived last, with the reason."""
    lines = [f"{one.name}: {one.text}  [{one.source}]" for one in findings.shop if not one.waived]
    lines += [f"waived: {one.name}: {one.text}  ({one.waived})" for one in findings.shop if one.waived]
    lines = lines or ["nothing found of how it is made"]
    lines += [f"caution, {one.kind}: {one.text}" for one in findings.cautions]
    return "\n".join([*lines, USUAL]) + "\n"


def shop_json(findings: Findings) -> list[dict[str, Any]]:
    """The findings."""
    return [_finding(findings, one) for one in findings.shop]


def _finding(findings: Findings, one: ShopFinding) -> dict[str, Any]:
    motion = findings.motion
    at = None if one.at is None else [one.at.real, one.at.imag]
    driver = None if one.t is None else driver_value(motion, motion.driver_value(one.t))
    return {"finding": one.name, "of": list(one.of), "text": one.text, "source": one.source, "at": at,
            "driver": driver, "waived": one.waived or None}  # fmt: skip


def cautions_json(findings: Findings) -> list[dict[str, Any]]:
    """The cautions."""
    return [_caution(findings, one) for one in findings.cautions]


def _caution(findings: Findings, one: Caution) -> dict[str, Any]:
    at = None if one.at is None else [one.at.real, one.at.imag]
    return {"kind": one.kind, "parts": list(one.parts), "text": one.text, "catches": list(one.limbs),
            "opens": one.opens, "closes": one.closes, "speed": one.speed, "reach": one.reach, "at": at,
            "driver": driver_value(findings.motion, one.driver)}  # fmt: skip
