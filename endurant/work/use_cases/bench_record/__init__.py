"""What happens at the bench, written down."""
