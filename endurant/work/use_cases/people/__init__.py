"""People, sign-in and authorisations."""
