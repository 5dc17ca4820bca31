"""The render queue: orders on disk, worked through by a process of its own at low priority."""
