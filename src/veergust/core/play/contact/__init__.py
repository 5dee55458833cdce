"""Step 8 of the tick: hitboxes swept against hurtboxes, and what a touch gives."""
