"""What goes on by itself: threads beside the windows, the beat of what plays, the search for what nobody holds."""
