"""Calipers, thickness gauges and balances."""
