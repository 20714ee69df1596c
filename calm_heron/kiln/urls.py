"""The kiln inside a workshop; for everybody its questions lie in :mod:`calm_heron.kiln.anybody`."""

from django.urls import path

from calm_heron.kiln import next_loads
from calm_heron.kiln.runs import run_views

urlpatterns = [
    path("", run_views.kiln, name="kiln"),
    path("chambers/new/", run_views.chamber, name="new_chamber"),
    path("chambers/<int:chamber_id>/", run_views.chamber, name="chamber"),
    path("next/", next_loads.season, name="kiln_season"),
    path("next/promise/", next_loads.promise, name="promise_lots"),
    path("begin/", run_views.begin, name="begin_load"),
    path("of/<str:load_tag>/", run_views.load, name="load"),
    path("of/<str:load_tag>/sample/", run_views.cut_sample, name="cut_sample"),
    path("of/<str:load_tag>/weigh/", run_views.weigh, name="weigh_samples"),
    path("of/<str:load_tag>/weight/<int:weight_id>/strike/", run_views.strike, name="strike_weight"),
    path("of/<str:load_tag>/air/", run_views.read_air, name="read_chamber"),
    path("of/<str:load_tag>/note/", run_views.note, name="note_load"),
    path("of/<str:load_tag>/end/", run_views.end, name="end_load"),
    path("of/<str:load_tag>/again/", run_views.again, name="run_again"),
    path("of/<str:load_tag>/found/", run_views.add_degrade, name="found_on_load"),
]
