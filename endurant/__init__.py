"""Endurant: the bench, from the parcel at the counter to the signed report."""

__version__ = "0.1.0"
