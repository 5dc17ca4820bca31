"""Finishes: one file each. A finish changes the look of a picture."""
