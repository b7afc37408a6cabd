"""Tables, migrations and queries. Knows the core, and nothing above it."""
