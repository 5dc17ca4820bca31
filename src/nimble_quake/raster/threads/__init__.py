"""Kernels on all cores, and the memory they use."""
