"""Judging: results, rows and limits of a test."""
