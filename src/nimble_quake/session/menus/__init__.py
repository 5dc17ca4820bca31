"""What can be done, menu by menu."""
