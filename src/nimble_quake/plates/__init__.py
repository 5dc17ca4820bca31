"""Kinds of plate: one file each. A plate is one thing that is seen."""
