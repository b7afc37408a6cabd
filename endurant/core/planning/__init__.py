"""The day: who does which step of which test where, and when."""
