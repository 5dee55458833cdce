"""The window: one room for each bench, and those that they share.

``document`` holds the open project as a value, every change to it as one step back, and what is worked out of it;
``look`` is how all of it looks, ``keys`` what is done by which key, ``frame`` what benches have in common, ``stage``
the one place where OpenGL meets Qt, ``widgets`` small things that know no project, ``shell`` the window around all.

What a window needs of the core is imported before Qt, which reads the source of every module that comes after it.
"""

import veergust.core.edit.actions
import veergust.core.study.facts  # noqa: F401
