"""Hearing the sounds, and their bands: what plays them, a spectrum whose edges are dragged, their panel."""
