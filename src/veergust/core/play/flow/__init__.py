"""Which frame of which section comes next: one machine, asked by play, preview, path, facts and the Now card."""
