"""A universal frame with a load cell, and an extensometer where one is clipped on."""
