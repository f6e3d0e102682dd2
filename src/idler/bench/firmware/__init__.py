"""What the controller's firmware does at each tick: motion, homing, inputs, outputs, its record."""
