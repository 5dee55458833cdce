"""What there is to draw, as plain data: bodies, volumes, ribbons, paths. It knows no colours and no Qt.

``view`` builds scenes from compiled actions and from records of play; ``camera`` says from where they are seen.
"""
