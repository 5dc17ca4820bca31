"""Arrays and nothing else: grids, sampling, blending, colour, filters and noise kernels."""
