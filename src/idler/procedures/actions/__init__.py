"""Own actions and index stops."""
