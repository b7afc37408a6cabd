"""Who may release what, and work under supervision."""
