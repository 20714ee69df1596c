"""Panels: boards in order, and what they do once glued."""
