"""The Spar bench: trying it live. ``session`` runs the bout and keeps the take, ``reel`` is a fighter's narrow
sheet, ``strip`` the take along the bottom."""
