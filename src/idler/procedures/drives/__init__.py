"""What is asked of motors: the way that they turn, their pace, its shape, their torque."""
