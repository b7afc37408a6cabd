"""Testing at the bench."""
