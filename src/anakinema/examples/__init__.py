"""Example mechanisms from the Quillmere Bindery, a workshop that exists only here."""
