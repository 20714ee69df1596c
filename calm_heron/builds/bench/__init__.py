"""At the bench: when to begin, how to mill, and the sheets."""
