"""The line to a running game: the game in examples, the editor's end, and what neither may do to the other."""
