"""Panels around the bench: make-up, card, verdict line, banner."""
