"""Cutting a sheet."""
