"""Loops over joints that are compiled to machine code, for what is done on every tick.

A kernel takes arrays that lie together row by row, and writes into those that are given it for that; it holds nothing
from call to call. Files are Cython: ``turns.pxd`` is what a vector and a quaternion can do, each ``.pyx`` is a module
whose types a ``.pyi`` beside it tells the checker. ``./run`` compiles them again whenever one has changed.
"""
