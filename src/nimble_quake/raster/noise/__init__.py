"""Random values by place and time, and the noise made of them."""
