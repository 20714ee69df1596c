"""Stacks inside a workshop; for everybody they lie in :mod:`calm_heron.stacks.anybody`."""

from django.urls import path

from calm_heron.stacks import standing_views

urlpatterns = [
    path("", standing_views.yard, name="stacks"),
    path("build/", standing_views.build, name="build_stack"),
    path("of/<str:stack_tag>/", standing_views.stack, name="stack"),
    path("of/<str:stack_tag>/change/", standing_views.change, name="change_stack"),
    path("of/<str:stack_tag>/note/", standing_views.note, name="note_stack"),
    path("of/<str:stack_tag>/event/<int:event_id>/", standing_views.event, name="stack_event"),
    path("of/<str:stack_tag>/outcome/", standing_views.outcome, name="outcome_of_stack"),
    path("of/<str:stack_tag>/down/", standing_views.take_down, name="take_down"),
]
