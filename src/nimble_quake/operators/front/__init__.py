"""Dials and slots: their base, what turning them writes, and how a value comes to the front."""
