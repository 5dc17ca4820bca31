"""Colours, fonts, icons and the style sheet."""
