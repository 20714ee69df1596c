"""The commands that keep it running and its data whole, on databases of their own."""
