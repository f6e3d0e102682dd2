"""Hand devices (J3): wheels, sticks and buttons in the hand, what each is assigned to, and what follows from each turn."""
