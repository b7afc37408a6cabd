"""Thermo-hygrometers that remember what they read."""
