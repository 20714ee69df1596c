"""The one command: ``./heron start | test | check | shots | bench | demo-reset | style``."""
