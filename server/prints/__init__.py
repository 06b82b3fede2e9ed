"""Prints: final frames as durable jobs."""
