"""Loads at work."""
