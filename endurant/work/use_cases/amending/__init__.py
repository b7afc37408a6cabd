"""Changes to a job after it was received."""
