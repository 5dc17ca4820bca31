"""The time strip, and the sound that is heard with it."""
