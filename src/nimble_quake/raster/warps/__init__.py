"""Where a place looks: chains of simple operations, run over rows of places."""
