"""What happens tick by tick, the same for Spar, the drills, the facts and the command line.

``compiling`` turns an action into the arrays of ``compiled`` once (``ways``: where its body goes), ``book`` keeps
what is compiled for a project, ``bout`` plays a tick in the order of docs/semantics.md: ``decide`` (exits, gates,
starts), ``move`` (root, drive) and ``collide`` (the body swept over the stage), ``posing``, ``contact`` (what a hit
does) over ``volumes`` (hitboxes and hurtboxes in the world) and ``sweep`` (when they touch). A fighter's state holds
immutable parts only, so that keeping a tick is a shallow copy. Nothing reads a clock or a global random source.
"""
