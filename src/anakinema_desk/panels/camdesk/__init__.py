"""The cam desk: a cam's chart, its profile with the follower, and what is to be said of it, side by side."""

from .desk import CamDesk

__all__ = ["CamDesk"]
