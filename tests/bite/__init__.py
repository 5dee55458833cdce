"""Whether the tests bite: changes of meaning, chosen by hand for each rule, of which every one must be noticed.

A rule is held when its change makes a test that is named for it fail. ``mutants`` has the changes with their rules,
``run`` makes each in a copy of the source and runs the test of its rule beside it (``./run bite [SEED SHARE]``).
"""
