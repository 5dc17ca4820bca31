"""Artwork, shapes and type, drawn by Skia."""
