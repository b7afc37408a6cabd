"""Products: drafted, approved, retired, and kept as a table."""
