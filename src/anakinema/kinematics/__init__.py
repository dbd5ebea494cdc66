"""Kinematics: from a document to its motion, its equations in NumPy and SciPy."""

from ..sparingly import load_scipy

load_scipy()
