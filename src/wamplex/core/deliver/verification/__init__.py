"""Reading written files back and comparing them."""
