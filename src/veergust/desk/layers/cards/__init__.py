"""The pages of the Layers bench."""
