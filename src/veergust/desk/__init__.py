"""The Qt program: window, theme, document and benches.

``document`` holds the project as a value and every change to it as one step back; widgets show a value and say
what the person wants. ``stage_view`` is the one place where OpenGL meets Qt. A bench has a folder of its own.
"""
