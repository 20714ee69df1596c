"""Entries of the log in templates."""

from django import template

from calm_heron.logbook import words

register = template.Library()
register.filter("described", words.describe)
