"""The one renderer: a scene from ``core.scene`` drawn with OpenGL 3.3, in the window and without one.

``Painter`` draws into whatever framebuffer it is given; ``picture`` makes one of its own. No Qt here.
"""
