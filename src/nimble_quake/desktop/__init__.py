"""The PyQt6 window, and the only place that imports Qt."""
