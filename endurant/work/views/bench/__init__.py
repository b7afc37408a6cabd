"""What the bench shows of a specimen."""
