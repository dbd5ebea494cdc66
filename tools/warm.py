"""Has everything compiled once, so that neither the first file nor the first pull of the hand waits for it."""

import numpy as np

from anakinema.findings import analyse
from anakinema.formats.project import demo
from anakinema.kinematics.dragging import prepare

motion = analyse(demo()[0]).motion
prepare(motion.document, motion.system, motion.positions(np.zeros(1))[0])
