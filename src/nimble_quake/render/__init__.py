"""A shot at a frame becomes a picture: resolving, maps, plates, caches, and the scheduler."""
