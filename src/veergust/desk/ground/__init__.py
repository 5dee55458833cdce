"""The Ground bench: locomotion made and changed. The chart of paper tags and the grid under it show and edit the same;
beside them the figure is driven, and the pages have what is chosen."""
