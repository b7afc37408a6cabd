"""Preparation: enclosures, chains of stays, sizes."""
