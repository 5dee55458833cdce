"""The window around the benches: its commands, the open document and its folder, what comes in, what went wrong."""
