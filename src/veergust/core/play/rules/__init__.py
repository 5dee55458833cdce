"""Step 3 of the tick: presses, conditions, exits, gates and start rules decide what plays."""
