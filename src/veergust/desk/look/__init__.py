"""The look of the window: themes and the style sheet made from the roles of ``veergust.look``."""
