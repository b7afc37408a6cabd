"""Preparation, sizes and conditioning."""
