"""Stickered stacks: the stickers, the pile they make of a load, what it weighs, the rules it keeps, and the air through it."""
