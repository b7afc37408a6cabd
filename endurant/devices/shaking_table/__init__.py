"""A table that shakes packs."""
