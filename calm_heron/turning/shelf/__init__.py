"""The shelf of rough bowls: their weights and what these say."""
