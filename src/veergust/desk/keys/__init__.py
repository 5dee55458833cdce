"""Every key: the table of commands, and keys as it writes them."""
