"""What the database says of jobs, tests, specimens and instruments."""
