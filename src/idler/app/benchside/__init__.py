"""The bench as a person meets it: starting its process, its hands, and its own small window."""
