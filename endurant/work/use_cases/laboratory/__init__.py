"""Lab settings and tables."""
