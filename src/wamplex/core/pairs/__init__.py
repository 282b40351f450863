"""Sources and what was made of them, found again by what files say of their making."""
