"""Simulated specimens: a module for each module of `core/methods` whose methods read a trace."""
