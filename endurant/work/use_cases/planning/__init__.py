"""The schedule."""
