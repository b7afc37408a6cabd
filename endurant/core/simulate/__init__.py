"""How specimens behave: for stand-ins, the demo laboratory and tests. Seeded, repeatable."""
