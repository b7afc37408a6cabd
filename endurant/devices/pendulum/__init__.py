"""A pendulum with its scale: impact, tear, puncture."""
