"""Reports: gathered, released, corrected."""
