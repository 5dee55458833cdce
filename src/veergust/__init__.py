"""Veergust: action layers on top of locomotion, for combat animators."""
