"""Plates: where they lie, what they show, and the stack of them."""
