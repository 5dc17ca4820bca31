"""The coupling: what drives what, how strongly, which way."""
