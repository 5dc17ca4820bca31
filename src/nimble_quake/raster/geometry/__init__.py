"""Where samples lie: grids, affine maps, places, and figures by their distance."""
