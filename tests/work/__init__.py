"""The floors of `work`, without a database."""
