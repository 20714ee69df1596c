"""Measuring: the strip, a piece's measuring page, meters."""

from django.urls import path

from calm_heron.measuring import views

urlpatterns = [
    path("read/", views.read, name="read"),
    path("read/preview/", views.preview, name="read_preview"),
    path("read/undo/", views.undo_readings, name="undo_readings"),
    path("stock/<str:tag>/measure/", views.measure, name="measure"),
    path("stock/<str:tag>/slab/", views.slab_test, name="slab_test"),
    path("stock/<str:tag>/weigh/", views.weigh, name="weigh"),
    path("stock/<str:tag>/oven/", views.oven, name="oven"),
    path("stock/<str:tag>/reading/<int:reading_id>/", views.reading, name="reading"),
    path("stock/<str:tag>/strike/<int:reading_id>/", views.strike, name="strike"),
    path("stock/<str:tag>/correct/<int:reading_id>/", views.correct, name="correct"),
    path("meters/", views.meters, name="meters"),
    path("meters/new/", views.new_meter, name="new_meter"),
    path("meters/<int:meter_id>/", views.change_meter, name="change_meter"),
    path("meters/<int:meter_id>/check/", views.check_meter, name="check_meter"),
    path("meters/<int:meter_id>/retire/", views.retire_meter, name="retire_meter"),
]
