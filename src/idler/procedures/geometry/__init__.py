"""What a dial, a square or marks on the bed tell of the machine's shape."""
