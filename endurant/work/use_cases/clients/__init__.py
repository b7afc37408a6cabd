"""Clients: what the office keeps about them."""
