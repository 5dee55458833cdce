"""The Qt program: window, theme, document and benches.

``document`` holds the project as a value and every change to it as one step back, ``known`` what is worked out of it;
widgets show a value and say what the person wants. ``theme`` and ``style`` are how all of it looks. ``stage_view`` is
the one place where OpenGL meets Qt. A bench has a folder of its own.
"""
