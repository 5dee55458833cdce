"""Small widgets that more than one bench uses."""
