"""The web application: one Django app per noun of the trade, in the order of the work."""
