"""Signing in with Django's accounts."""
