"""What is declared: parameters, names, versions, and how it is found."""
