"""Stacks inside a workshop; for everybody they lie in :mod:`calm_heron.stacks.anybody`."""

from django.urls import path

from calm_heron.stacks import views
from calm_heron.workshops.askers import asked_by_members

urlpatterns = [
    path("plan/", asked_by_members(views.plan), name="ask_stack"),
    path("saw/", asked_by_members(views.saw), name="ask_saw"),
]
