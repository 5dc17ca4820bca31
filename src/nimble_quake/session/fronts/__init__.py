"""Dials and slots of a shot: which there are, how they are filled and turned, without a window."""
