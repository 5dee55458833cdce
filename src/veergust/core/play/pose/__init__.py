"""Step 7 of the tick: the pose of a fighter out of locomotion and every action that still shows."""
