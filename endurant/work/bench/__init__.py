"""The bench: stations, live runs, readings brought in, voids, set-up."""
