"""The Sheet bench: the list of actions, the exposure sheet, the stage with its Now card, the facts strip.

``layout`` is geometry without painting, ``view`` the sheet with its ``mouse`` and ``keys``, ``deeds`` what they do at
the playhead, ``paint`` its ink, ``cards`` the pages of fields.
"""
