"""What is really there: motors, trains, carriages, stops, a spindle, paper; and what a person measures it with."""
