"""The bench: the mechanism in plan, with joint symbols, traces and dimensions."""
