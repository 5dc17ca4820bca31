"""Reading and writing `.nquake` files: codec, upgrades, schema, atomic save."""
