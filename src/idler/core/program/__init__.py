"""Programs of ISO 6983: what they say, what they mean on a machine, where they go and how long that takes."""
