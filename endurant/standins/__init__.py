"""Simulated devices: a process of their own that behaves like the real thing on a line."""
