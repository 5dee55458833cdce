"""A small player of what is handed over: an export played by the rules of docs/semantics.md, in plain Python.

It shares nothing with the program that made the export. Read it to write your own; each module is a step of the tick,
in the order of ``bout.Bout.tick``. Inside, x is to the left of a body that faces 0°, y is up, z ahead, in metres;
``axes`` brings an export's there and back.
"""
