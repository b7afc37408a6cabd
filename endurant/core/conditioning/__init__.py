"""Conditioning: atmospheres, what a stay proves, chains of stays, and their documents."""
