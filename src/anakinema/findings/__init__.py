"""Findings: plain results of a motion that every view, the report and the command line share."""

from .analysis import Findings, analyse
from .checks import Outcome, Verdict

__all__ = ["Findings", "Outcome", "Verdict", "analyse"]
