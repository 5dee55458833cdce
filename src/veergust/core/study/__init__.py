"""What can be known about an action without anybody playing on: its facts, its findings, and what can happen
from a frame. Everything asks the compiled action, as the player does."""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
