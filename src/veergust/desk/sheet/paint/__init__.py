"""How the exposure sheet is drawn.

``marks`` says what stands on the sheet, as plain values; ``ink`` draws each kind of mark; ``bands`` keeps what was
drawn, and draws a band of rows again only when its marks are others; ``painter`` puts them together, with the
playhead and the headings over them. A new thing on the sheet is a new kind of mark and the ink for it.
"""
