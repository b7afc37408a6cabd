"""Lots over time: control charts, run rules and capability."""
