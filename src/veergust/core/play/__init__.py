"""What happens tick by tick, the same for Spar, the drills, the facts and the command line.

``compiled`` turns an action into arrays once, ``book`` keeps what is compiled for a project, ``bout`` plays a
tick in the order of docs/semantics.md: ``decide`` (exits, gates, starts), ``move`` (root, drive, stage),
``pose``, ``contact`` (strikes against hurtboxes, what a hit does). A fighter's state holds immutable parts
only, so that keeping a tick is a shallow copy. Nothing reads a clock or a global random source.
"""
