"""A cabinet for a cloth at 45 degrees, with timer and fan."""
