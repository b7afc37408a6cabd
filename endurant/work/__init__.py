"""What a user does, as functions: each one transaction between the core and the store."""
