"""Has everything compiled once, so that neither the first file nor the first pull of the hand waits for it."""

from anakinema.findings import analyse
from anakinema.formats.project import demo
from anakinema.kinematics.dragging import prepare

prepare(analyse(demo()[0]).motion)
