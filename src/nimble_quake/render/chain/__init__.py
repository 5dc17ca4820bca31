"""Running steps, for maps and for pictures, and remembering what they made."""
