"""Movement of a board."""

from django.urls import path

from calm_heron.movement import built_views, views
from calm_heron.workshops.askers import asked_by_members

urlpatterns = [
    path("movement/", asked_by_members(built_views.choose), name="ask_made"),
    path("movement/of/<slug:thing>/", asked_by_members(built_views.one_thing), name="ask_made_thing"),
    path("movement/season/", asked_by_members(built_views.dial), name="ask_season"),
    path("movement/elsewhere/", asked_by_members(built_views.elsewhere), name="ask_elsewhere"),
    path("stock/<str:tag>/movement/", views.movement, name="movement"),
    path("stock/<str:tag>/movement/keep/", views.keep_pith, name="keep_pith"),
]
