"""Conditioning: atmospheres, periods and what proves them, chains of periods, and documents."""
