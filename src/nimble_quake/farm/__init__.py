"""Rendering on many machines, by dask.distributed: parts of an order go out, their files come back and are joined."""
