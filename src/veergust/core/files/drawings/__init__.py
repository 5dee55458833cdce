"""Figures that are drawn: sheets of cells with what is said beside them, read, cut and put together."""
