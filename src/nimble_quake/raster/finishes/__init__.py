"""What finishes do to a picture: light, rims, grain, wear."""
