"""What there is to draw, as plain data: bodies, volumes, ribbons, paths. It knows no colours and no Qt.

``view`` builds scenes from compiled actions and from records of play; ``camera`` says from where they are seen.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
