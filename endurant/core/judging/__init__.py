"""Judging: from a limit to a verdict, and the documents that ask for one."""
