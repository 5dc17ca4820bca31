"""Map sources: one file each. A source makes values."""
