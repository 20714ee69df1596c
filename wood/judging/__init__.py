"""Ready or not, and alike or not."""
