"""The Spindle station: one module per page at its right, and the runs that measure."""
