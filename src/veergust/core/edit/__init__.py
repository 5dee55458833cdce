"""One change, as a new project and the words that say what it was. Every edit of the desk is made here."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
