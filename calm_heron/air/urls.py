"""Air: places and their readings."""

from django.urls import path

from calm_heron.air import logger_views, views

urlpatterns = [
    path("", views.air, name="air"),
    path("new/", views.new_place, name="new_place"),
    path("hygrometers/", views.hygrometers, name="hygrometers"),
    path("hygrometers/<int:hygrometer_id>/check/", views.check_hygrometer, name="check_hygrometer"),
    path("<int:place_id>/", views.place, name="place"),
    path("<int:place_id>/year/", views.year, name="place_year"),
    path("<int:place_id>/logger/", logger_views.logger, name="place_logger"),
    path("<int:place_id>/logger/<int:file_id>/", logger_views.logger_file, name="logger_file"),
    path("<int:place_id>/retire/", views.retire_place, name="retire_place"),
    path("<int:place_id>/readings/<int:air_reading_id>/", views.correct_air, name="correct_air"),
    path("<int:place_id>/change/", views.change_place, name="change_place"),
]
