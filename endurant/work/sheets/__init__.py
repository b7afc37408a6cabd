"""Sheets: where specimens lie, and how they are cut."""
