"""The controller on the bus: objects, what axes and terminals say of themselves, what is stored."""
