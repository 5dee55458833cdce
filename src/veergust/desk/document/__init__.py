"""The project that is open: what it is, what is worked out of it, and how it is kept on disk."""
