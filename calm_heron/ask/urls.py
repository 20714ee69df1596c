"""What lies beside the questions inside a workshop."""

from django.urls import path

from calm_heron.ask import keeping, views
from calm_heron.workshops.askers import asked_by_members

urlpatterns = [
    path("", asked_by_members(views.index), name="ask"),
    path("wood/keep/", keeping.keep_wood, name="ask_keep_wood"),
]
