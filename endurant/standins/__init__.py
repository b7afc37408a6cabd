"""The one program that hosts every simulated device."""
