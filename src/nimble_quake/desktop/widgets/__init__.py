"""Controls made for numbers, angles, gradients and times."""
