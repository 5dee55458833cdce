"""A small game of its own process, as a stand-in for a real one: it loads an export, plays it with the independent
player, and takes edits while it runs. docs/live.md describes what it speaks."""
