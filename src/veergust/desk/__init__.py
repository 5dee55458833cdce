"""The window: one room for each bench, and those that they share.

``document`` holds the open project as a value, every change to it as one step back, and what is worked out of it;
``look`` is how all of it looks, ``keys`` what is done by which key, ``frame`` what benches have in common, ``stage``
the one place where OpenGL meets Qt, ``widgets`` small things that know no project, ``shell`` the window around all.

What a window needs of the core is imported before Qt, which reads the source of every module that comes after it; and
without a search for cycles for every few hundred objects that are made meanwhile.
"""

import gc

gc.set_threshold(50_000, 20, 20)

import veergust.core.changes.replay
import veergust.core.edit.actions
import veergust.core.files.demo
import veergust.core.files.drafts
import veergust.core.files.importing
import veergust.core.files.journal
import veergust.core.files.missing
import veergust.core.files.opened
import veergust.core.study.facts
import veergust.core.study.findings
import veergust.core.typed
