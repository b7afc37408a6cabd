"""The pages of the methods."""
