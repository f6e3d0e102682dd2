"""The Homing station: rehearsed on a time line and at the head of the travel, run, and explained when it fails."""
