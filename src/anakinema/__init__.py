"""The core of Anakinema: documents, kinematics, clearance and findings for planar mechanisms, without any window."""

__version__ = "0.1.0"
