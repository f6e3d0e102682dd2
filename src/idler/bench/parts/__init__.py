"""A controller that is made of plain parts: drives, terminals, an encoder, an inverter, each a node of its own."""
