"""The bench as a process: its one loop, the hands of a person beside it, its drive on Modbus."""
