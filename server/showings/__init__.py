"""Showings: links for people without an account, who look, turn, switch, compare and comment."""
