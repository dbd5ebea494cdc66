"""Findings: plain results of a motion that every view, the report and the command line share."""

from .analysis import Findings, analyse

__all__ = ["Findings", "analyse"]
