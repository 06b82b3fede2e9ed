"""A whole order of pictures without a server: the project as one file, and what is made of it."""
