"""Open formats in and out: the project folder, glTF, and what comes with them.

Readers take paths and give values or raise ``Trouble`` naming file and field; nothing here keeps state. Writers
are atomic: a crash at any moment leaves the old file or the new one.
"""
