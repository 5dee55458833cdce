"""What is handed to the game: clips as glTF, what is compiled as JSON, its schemas, and the manifest that owns them."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
