"""The kiln inside a workshop; for everybody its questions lie in :mod:`calm_heron.kiln.anybody`."""

from django.urls import path

from calm_heron.kiln import next_loads, outcomes
from calm_heron.kiln.runs import record_views, run_views, sample_views

urlpatterns = [
    path("", run_views.kiln, name="kiln"),
    path("chambers/new/", run_views.chamber, name="new_chamber"),
    path("chambers/<int:chamber_id>/", run_views.chamber, name="chamber"),
    path("next/", next_loads.season, name="kiln_season"),
    path("next/promise/", next_loads.promise, name="promise_lots"),
    path("record/", outcomes.record, name="kiln_record"),
    path("record.csv", outcomes.record_out, name="kiln_record_out"),
    path("begin/", run_views.begin, name="begin_load"),
    path("of/<str:load_tag>/", run_views.load, name="load"),
    path("of/<str:load_tag>/more/", run_views.other_forms, name="load_more"),
    path("of/<str:load_tag>/sample/", sample_views.cut_sample, name="cut_sample"),
    path("of/<str:load_tag>/oven/<int:sample_id>/", sample_views.oven, name="out_of_the_oven"),
    path("of/<str:load_tag>/weigh/", sample_views.weigh, name="weigh_samples"),
    path("of/<str:load_tag>/weight/<int:weight_id>/strike/", sample_views.strike, name="strike_weight"),
    path("of/<str:load_tag>/air/", run_views.read_air, name="read_chamber"),
    path("of/<str:load_tag>/note/", run_views.note, name="note_load"),
    path("of/<str:load_tag>/event/<int:event_id>/", run_views.event, name="load_event"),
    path("of/<str:load_tag>/end/", run_views.end, name="end_load"),
    path("of/<str:load_tag>/again/", run_views.again, name="run_again"),
    path("of/<str:load_tag>/outcome/", run_views.outcome, name="outcome_of_load"),
    path("of/<str:load_tag>/record/", record_views.record, name="load_record"),
    path("of/<str:load_tag>/weights.csv", record_views.weights_out, name="load_weights_out"),
    path("of/<str:load_tag>/found/", run_views.add_degrade, name="found_on_load"),
]
