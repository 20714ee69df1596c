"""How long wood takes to dry."""

from django.urls import path

from calm_heron.drying import log_views, road_views, views
from calm_heron.workshops.askers import asked_by_members

urlpatterns = [
    path("drying/", views.imagined, name="drying"),
    path("drying/roads/", asked_by_members(road_views.by_road), name="ask_roads"),
    path("drying/log/", asked_by_members(log_views.log), name="ask_log"),
    path("stock/<str:tag>/hurry/", views.hurry, name="hurry"),
    path("stock/<str:tag>/drying/", views.of_piece, name="piece_drying"),
]
