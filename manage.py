#!/usr/bin/env python
"""Django's own commands, for developers; ``./heron`` starts the database they need and sets its address."""

import os
import sys

from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "calm_heron.settings.base")
    execute_from_command_line(sys.argv)
