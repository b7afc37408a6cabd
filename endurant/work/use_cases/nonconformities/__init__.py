"""Nonconformities and complaints: opened, worked on, and closed by another person."""
