"""Takes of the program and of a player that shares no code with it."""
