"""The demo laboratory: invented, and none of it real."""
