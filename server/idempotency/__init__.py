"""Requests over HTTP that may be sent again: done once, answered alike."""
