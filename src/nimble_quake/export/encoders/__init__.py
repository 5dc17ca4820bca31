"""Encoders of clips, numbered pictures and sound."""
