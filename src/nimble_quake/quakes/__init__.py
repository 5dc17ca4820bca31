"""Couplings: one file each. A quake reads a map and moves the plate it belongs to."""
