"""Photographs of samples, specimens and instruments."""
