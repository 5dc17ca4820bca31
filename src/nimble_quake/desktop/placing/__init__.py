"""What is placed with the mouse in the picture: handles, the paths of places, guides and what snaps to them."""
