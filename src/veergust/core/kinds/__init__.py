"""Kinds: what can stand in a project, one module a kind, and everything that is said of it in that module.

A kind says what it is called, its defaults and fields, what the checks find in it, its line on the Now card, its
column and role on the sheet, and what play asks of it. The tables of the other rooms (the pages of the sheet, the
list of conditions, findings, columns) are made from what is listed here, so that a new kind is a new module, a line
and its tests.

Play and study hand themselves in when they ask; nothing here imports them but to name their types.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
