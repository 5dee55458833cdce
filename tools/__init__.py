"""What looks at the whole program, asked by ``./run`` by hand; tests ask some of each.

``bite`` makes changes of meaning (``mutants``, by what they are about) of which a test must notice every one, ``same``
compares all answers with those of another commit, ``wander`` does anything at all with the window, ``referee`` has
exports played by a player that shares no code with the program. ``made`` makes up what all of them, tests and
benchmarks are given.
"""
