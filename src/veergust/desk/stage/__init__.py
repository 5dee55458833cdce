"""The stage on which figures are shown: a view of a scene, drawn by OpenGL where there is one, and its panel."""
