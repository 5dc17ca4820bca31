"""Clips, stills, artwork and type, in and out."""
