"""The compiled loops, cut by subject: `terms`, `rows`, `blocks`, `branch`, `following`, `least`, `loose`, `ranks`.

Numbers only: what terms, rows and blocks are, and the formulas of the terms, stands in `tables`. Loaded late by those
who use them, so that a window opens without waiting.
"""
