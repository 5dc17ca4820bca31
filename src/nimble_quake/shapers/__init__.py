"""Map shapers: one file each. A shaper changes the values made so far."""
