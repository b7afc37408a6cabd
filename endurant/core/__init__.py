"""The rules of the job, pure: no web, no database, no clock of its own, no files."""
