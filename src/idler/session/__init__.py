"""One machine in hand, without a window: its draft, the controller's image, proofs, and the one thing that runs."""
