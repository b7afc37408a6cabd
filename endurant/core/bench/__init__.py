"""How each kind of test goes on at the bench: pure state machines over what happened."""
