"""Steps 5 and 6 of the tick: what moves the body, and the stage it is swept against."""
