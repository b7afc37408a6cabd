"""Outside devices: a folder each with its driver and its stand-in, the line, and the link."""
