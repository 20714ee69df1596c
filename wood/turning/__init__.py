"""Turning: blanks in a log, how thick to rough a bowl, the shape it dries to, drying by weight, and when it may go back on the lathe."""
