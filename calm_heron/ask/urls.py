"""The questions inside a workshop; for everybody they lie in :mod:`calm_heron.ask.anybody`."""

from django.urls import path

from calm_heron.ask import keeping, views
from calm_heron.workshops.askers import asked_by_members

urlpatterns = [
    path("", asked_by_members(views.index), name="ask"),
    path("air/", asked_by_members(views.air), name="ask_air"),
    path("wood/", asked_by_members(views.wood), name="ask_wood"),
    path("wood/keep/", keeping.keep_wood, name="ask_keep_wood"),
    path("movement/", asked_by_members(views.movement), name="ask_movement"),
    path("drying/", asked_by_members(views.drying), name="ask_drying"),
]
