"""Logs: the end as it was drawn, the plans that come of it, and their blanks."""
