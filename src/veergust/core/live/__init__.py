"""The line to a running game: what is sent to it, what comes back, and what of it becomes a take."""
