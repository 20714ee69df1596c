"""One bowl: how thick it is roughed, and whether it may go back on the lathe."""
