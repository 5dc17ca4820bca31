"""What is done pixel by pixel: colour, blending, alpha, light."""
