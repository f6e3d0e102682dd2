"""The drive train and how a move goes: exact counts, pace, torque, measured scale, likely mistakes, what a person types."""
