"""The window: one room for each bench, and those that they share.

``document`` holds the open project as a value, every change to it as one step back, and what is worked out of it;
``look`` is how all of it looks, ``keys`` what is done by which key, ``frame`` what benches have in common, ``stage``
the one place where OpenGL meets Qt, ``widgets`` small things that know no project, ``shell`` the window around all.

A first window needs nothing of the core but the shape of a project: modules that are part of every start ask its rooms
by their names (``core.files.save_project``), and what a project needs is imported once the window is there
(``running.ahead``). Nothing searches for cycles meanwhile for every few hundred objects that are made.
"""

import gc

gc.set_threshold(50_000, 20, 20)
