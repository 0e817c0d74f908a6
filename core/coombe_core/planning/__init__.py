"""The evening before: how many runs, in which order, on which strip, and when to plug in, heat and leave."""
