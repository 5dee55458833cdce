"""Movement as numbers: quaternions, skeletons, sampling, mixing, masks, root travel, IK.

Everything works on batches, ``[frames, joints, …]`` float64 arrays; one frame is a batch of one. Quaternions are
``[x, y, z, w]`` as in glTF and SciPy. The frame is right-handed, +Y up, a figure looks along +Z and its left
hand is at +X. Nothing here knows of actions or ticks.
"""

import lazy_loader

__getattr__, __dir__, __all__ = lazy_loader.attach_stub(__name__, __file__)
