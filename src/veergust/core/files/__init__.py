"""Open formats in and out: the project folder, glTF, BVH, and what comes with them.

Readers take paths and give values or raise ``Trouble`` naming file and field. The layers of the folder, lowest first:
``beneath`` (reaching files inside it, and only those), ``plan`` (a save that is certain), ``lock`` (one writer),
``as_files`` (a project as files), ``folder`` (reading), ``saving``, ``journal`` (work not saved), ``opened`` (an open
folder). What is promised of them stands in docs/safety.md.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
