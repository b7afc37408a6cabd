"""What pages and prints show."""
