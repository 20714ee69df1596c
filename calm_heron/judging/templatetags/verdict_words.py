"""Verdicts in templates."""

from django import template

from calm_heron.judging import words

register = template.Library()
register.filter("basis_of", words.basis_of)
register.filter("chance", words.chance)
