"""A range of frames becomes files."""
