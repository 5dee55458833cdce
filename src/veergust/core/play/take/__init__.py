"""What a run leaves behind: the record of every tick, as a file, and drills that ask whether it is as expected."""
