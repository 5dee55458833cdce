"""The same work without a window. ``main`` is the console entry; every command loads a project, asks core, and
prints; what is printed with ``--json`` is one document and nothing else."""
