"""What one begins with: starters, shipped and one's own, their moving pictures, and how they go on a picture."""
