"""Air: its humidity in every form, what wood comes to in it, climates, rooms, and the instruments that measure it."""
