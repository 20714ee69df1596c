"""The questions as anybody may ask them, without an account."""

from django.urls import path

from calm_heron.ask import keeping, views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("", asked_by_anybody(views.index), name="anybody"),
    path("air/", asked_by_anybody(views.air), name="anybody_air"),
    path("wood/", asked_by_anybody(views.wood, heavy=True), name="anybody_wood"),
    path("movement/", asked_by_anybody(views.movement), name="anybody_movement"),
    path("drying/", asked_by_anybody(views.drying, heavy=True), name="anybody_drying"),
    path("species/", asked_by_anybody(views.species), name="anybody_species"),
    path("keep/<str:name>/", keeping.carry_on, name="carry_on"),
]
