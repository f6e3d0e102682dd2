"""Own actions (R9): short sequences that a machine's builder writes, their text, and what would come of them."""
