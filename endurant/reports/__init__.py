"""PDF, CSV and drawings of what the record holds."""
