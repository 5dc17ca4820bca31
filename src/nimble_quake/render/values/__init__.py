"""Numbers of operators at a moment, and what moving values may ask; where plates lie."""
