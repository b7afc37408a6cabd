"""The day of the laboratory: its open tests as a planning document, and the plan that is kept."""
