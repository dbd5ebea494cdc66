"""Cams: what a follower is to do over a turn, the profile that makes it do so, and what is to be said of both."""

from .coupling import CamLaw, Follower, FollowerKind
from .geometry import CamGeometry, Course
from .judgement import CamJudgement, judged
from .profile import Profile, profile

__all__ = [
    "CamGeometry", "CamJudgement", "CamLaw", "Course", "Follower", "FollowerKind", "Profile", "judged", "profile",
]  # fmt: skip
