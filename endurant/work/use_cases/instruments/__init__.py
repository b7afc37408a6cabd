"""Instruments, their checks, and consumables."""
