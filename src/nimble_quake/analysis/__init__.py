"""What is found in media once and kept: feature points followed through a clip."""
