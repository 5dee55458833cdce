"""What a project is: frozen structs with defaults, and nothing that computes.

An edit makes a new project that shares every unchanged part with the old one. Field names here are the field
names in the project's files; adding a field with a default is safe, renaming one needs a step in
``core.files.migrate``. Lengths are metres, angles degrees, spans whole ticks and half-open.
"""

from veergust.core.model.action import *
from veergust.core.model.base import *
from veergust.core.model.clip import *
from veergust.core.model.command import *
from veergust.core.model.layers import *
from veergust.core.model.locomotion import *
from veergust.core.model.project import *
from veergust.core.model.rig import *
from veergust.core.model.stage import *
from veergust.core.model.thrown import *
