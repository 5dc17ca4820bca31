"""What every operator is: a declaration of parameters and one pure function; and how operators are found."""
