"""What whoever keeps the server does: begin a laboratory, verify it, rebuild it."""
