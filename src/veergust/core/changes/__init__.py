"""Two states of a project held against each other: what answers to what, what was changed, in the animator's words,
and both put together."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
