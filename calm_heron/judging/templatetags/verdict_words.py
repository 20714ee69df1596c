"""Verdicts in templates."""

from django import template

from calm_heron.judging import later, words

register = template.Library()
register.filter("basis_of", words.basis_of)
register.filter("chance", words.chance)
register.filter("later_words", later.in_words)
