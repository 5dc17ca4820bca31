"""Pictures and fields that are drawn: patterns, rings, gradients, particles, water."""
