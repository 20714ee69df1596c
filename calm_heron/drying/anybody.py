"""Roads as anybody may compare them, without an account; much is worked out, so one at a time."""

from django.urls import path

from calm_heron.drying import log_views, road_views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("", asked_by_anybody(road_views.by_road, heavy=True), name="anybody_roads"),
    path("log/", asked_by_anybody(log_views.log), name="anybody_log"),
]
