"""Crossings: where plates meet, what is laid there, and the same one in many places."""
