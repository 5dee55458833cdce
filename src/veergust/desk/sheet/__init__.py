"""The Sheet bench: the list of actions, the exposure sheet, the stage with its Now card, the facts strip.

``layout`` is geometry without painting, ``view`` the sheet's mouse and keys, ``paint`` its ink.
"""
