"""What is played: a project with its clips at hand, and each action compiled once into arrays that a tick reads.

Nothing here knows of a fighter; every edit makes a new compiled project, which takes over what it did not touch.
"""
