"""What is wrong or doubtful about a machine: pure functions from machine to findings."""
