"""File formats: the project file and its schema, tables of a motion."""
