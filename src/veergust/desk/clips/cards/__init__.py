"""The pages of the Clips bench: fields for one side of the open clip each. ``card`` is what they share."""
