"""Builds inside a workshop."""

urlpatterns: list = []
