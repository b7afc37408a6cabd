"""Outside devices: the line they speak, the drivers, and the link that carries a live run."""
