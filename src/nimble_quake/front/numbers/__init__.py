"""Dials of one number, one file a unit."""
