"""Threads that share the rows of a kernel: in machine code, and plain ones where that cannot be."""
