"""What happens tick by tick, the same for Spar, the drills, the facts and the command line.

``compiled`` turns actions into arrays once; ``flow`` says which frame comes next; ``simulation`` plays a tick in the
order of docs/semantics.md: ``rules`` (exits, gates, starts) and ``locomotion``, ``body`` (what moves it, and the stage
it is swept over), ``pose``, ``contact`` (what touches, and what a hit does); ``take`` is what is left of it. A fighter
between two ticks is its ``state``, which holds immutable parts only, so that keeping a tick is a shallow copy. Nothing
reads a clock or a global random source.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
