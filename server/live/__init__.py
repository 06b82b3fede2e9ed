"""The web side of the live view: sockets, seats, sessions, and its end of the render hosts."""
