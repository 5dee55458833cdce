"""A fight over a bad connection, rehearsed here: two players and one who decides, with a line between them.

Every end plays the same tick. ``line`` carries messages late, or not at all; ``ends`` are who plays and who decides;
``rehearsal`` lets them play; ``telling`` says where they saw different things.
"""
