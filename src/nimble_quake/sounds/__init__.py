"""What is heard: recordings and bands, one file each."""
