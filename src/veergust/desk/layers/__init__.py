"""The Layers bench: the sheets over locomotion and where each may speak, masks painted on the rig, and a mix to try."""
