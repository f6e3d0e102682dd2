"""Hand devices as they come: the kernel's input devices, and simulated ones that speak the same events on a socket."""
