"""How pages show what can be asked."""
