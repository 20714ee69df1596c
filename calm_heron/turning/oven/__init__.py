"""A bowl in the microwave."""
