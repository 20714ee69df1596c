"""Stacks as anybody may plan them, without an account."""

from django.urls import path

from calm_heron.stacks import views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("", asked_by_anybody(views.plan), name="anybody_stack"),
    path("saw/", asked_by_anybody(views.saw), name="anybody_saw"),
]
