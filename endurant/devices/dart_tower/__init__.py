"""A tower from which darts fall."""
