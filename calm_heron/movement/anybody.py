"""Movement as anybody may ask it, without an account."""

from django.urls import path

from calm_heron.movement import built_views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("", asked_by_anybody(built_views.choose), name="anybody_made"),
    path("of/<slug:thing>/", asked_by_anybody(built_views.one_thing), name="anybody_made_thing"),
    path("season/", asked_by_anybody(built_views.dial), name="anybody_season"),
    path("elsewhere/", asked_by_anybody(built_views.elsewhere), name="anybody_elsewhere"),
]
