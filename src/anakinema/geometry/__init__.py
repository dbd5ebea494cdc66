"""Exact plane geometry: lines, arcs, outlines of parts in slabs of depth, distances."""
