"""A program or a figure on the machine, what it leaves, work zeros and touch plates."""
