"""Everything that can be computed without a window.

Rooms, each allowed to use only those before it: ``model`` (what a project is), ``motion`` (movement as
numbers), ``play`` (what happens tick by tick), ``study`` (what can be known without playing on), ``edit``
(one change, as a new project) and ``scene`` (what there is to draw), ``files`` (in and out).
"""
