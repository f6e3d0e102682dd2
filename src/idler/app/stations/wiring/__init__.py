"""The Wiring station: what reaches the controller, what it switches, and the proof of both."""
