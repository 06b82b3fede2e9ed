"""OBJ with MTL."""
