"""A fight over a bad connection, rehearsed here: two players and one who decides, with a line between them.

Every end plays the same tick. ``line`` carries messages late, or not at all; ``ends`` are who plays and who decides;
``rehearsal`` lets them play; ``telling`` says where they saw different things.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
