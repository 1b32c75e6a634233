"""How a yarn rests: balance by energy, the loop and the ply-back."""
