"""The two sides of an item, and the states of a whole shot: to be gone back to, and compared."""
