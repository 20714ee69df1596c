"""What is cut from which board, and where on it."""
