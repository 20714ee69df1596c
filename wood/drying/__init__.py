"""Moisture through wood over time: the field, stacks, methods, how long, what goes wrong, and what a log teaches."""
