"""What writes the first files of something new, for an engineer to go on from."""
