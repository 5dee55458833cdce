"""The program at home on a Linux desktop: its entry in the menu, its icon, and completion of its commands.

All of it by the freedesktop standards (Desktop Entry, Icon Theme, Base Directory), for the person who asks.
"""
