"""A melt flow rig: barrel with two sensors, piston, die."""
