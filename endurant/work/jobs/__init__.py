"""Jobs: received, looked at, their states and what they are asked for."""
