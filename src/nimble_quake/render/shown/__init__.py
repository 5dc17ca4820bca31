"""What the window asks of a frame, and what it is told."""
