"""What the laboratory works with: instruments, their checks, supplies, and the room around them."""
