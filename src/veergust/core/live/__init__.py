"""The line to a running game: what is sent to it, what comes back, and what of it becomes a take."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
