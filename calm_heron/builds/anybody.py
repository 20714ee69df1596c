"""Which wood, as anybody may ask it, without an account."""

from django.urls import path

from calm_heron.builds import bench_views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [path("", asked_by_anybody(bench_views.wood_for), name="anybody_wood_for")]
