"""Nimble Quake: animated displacement maps that shake, ripple and bend text, logos and clips."""

__version__ = "0.1.0"
