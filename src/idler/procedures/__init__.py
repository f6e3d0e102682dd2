"""What a builder does with a machine, without a window: each procedure asks the session for motion, and judges by core."""
