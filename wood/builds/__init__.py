"""Builds: parts laid on boards, cut sizes that know today's moisture, glued panels, milling in steps, wood for a use, and the day when all
is ready.
"""
