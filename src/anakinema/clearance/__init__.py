"""Clearance: how near parts that share depth come to each other through the motion."""
