"""Gamepads: which are plugged in, what is pressed on them, and a simulated one for who has none. SDL reads them."""
