"""Measurements, pictures and set-up: what is run beside the program."""
