"""Dials of all that is no single number, one file a sort."""
