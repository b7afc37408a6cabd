"""The sheet: what is cut from a sample, where, and by which rules."""
