"""The end of a load, and loads that somebody else dries."""
