"""The referee: exports are played by ``examples/player``, which shares no code with the program, and the takes compared."""
