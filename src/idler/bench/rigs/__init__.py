"""What machines truly are, and what their controllers were told: a file for each."""
