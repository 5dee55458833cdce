"""Everything that can be computed without a window.

Rooms, each allowed to use only those before it: ``model`` (what a project is), ``motion`` (movement as
numbers), ``play`` (what happens tick by tick), ``study`` (what can be known without playing on), ``edit``
(one change, as a new project) and ``scene`` (what there is to draw), ``files`` (in and out).

The face of a room is its ``__init__``: what others may use stands in ``__init__.pyi``, a line a name, and is imported
when it is first asked for. No other room reaches deeper. Where a module of the desk is part of every start, it asks
``core.files.save_project`` when it saves, and has what it only names imported for its types.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
