"""Photographs of specimens: taken in, encoded anew, kept once, shown and reported."""
