"""Drafts, releases and corrections of reports."""
