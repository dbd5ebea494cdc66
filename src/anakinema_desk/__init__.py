"""The desktop application: shows and edits what the core computes, and computes nothing itself."""

from . import overrides

overrides.install()
