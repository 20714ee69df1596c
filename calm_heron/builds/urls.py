"""Builds inside a workshop."""

from django.urls import path

from calm_heron.builds import views
from calm_heron.builds.bench import bench_views
from calm_heron.builds.glueups import glue_views
from calm_heron.builds.layouts import layout_views, sawing_views
from calm_heron.builds.made import year_views

urlpatterns = [
    path("", views.builds, name="builds"),
    path("new/", views.new_build, name="new_build"),
    path("<int:build_id>/", views.build, name="build"),
    path("<int:build_id>/change/", views.edit_build, name="edit_build"),
    path("<int:build_id>/delete/", views.delete_build, name="delete_build"),
    path("<int:build_id>/done/", sawing_views.made, name="finish_build"),
    path("<int:build_id>/not-done/", sawing_views.not_made, name="build_not_made"),
    path("<int:build_id>/boards/<int:board_id>/sawn/", sawing_views.sawn, name="board_sawn"),
    path("<int:build_id>/boards/<int:board_id>/otherwise/", sawing_views.sawn_otherwise, name="board_sawn_otherwise"),
    path("<int:build_id>/boards/<int:board_id>/not-sawn/", sawing_views.not_sawn, name="not_sawn"),
    path("<int:build_id>/parts/", views.parts, name="build_parts"),
    path("<int:build_id>/parts/<int:part_id>/", views.edit_part, name="edit_part"),
    path("<int:build_id>/parts/<int:part_id>/delete/", views.delete_part, name="delete_part"),
    path("<int:build_id>/boards/", layout_views.layout, name="build_layout"),
    path("<int:build_id>/boards/lay/", layout_views.lay_out, name="lay_out"),
    path("<int:build_id>/boards/place/", layout_views.place, name="place_piece"),
    path("<int:build_id>/boards/off/<int:cut_id>/", layout_views.take_off, name="take_off"),
    path("<int:build_id>/boards/<int:board_id>/face/", layout_views.face, name="show_face"),
    path("<int:build_id>/boards/<int:board_id>/photo/", layout_views.frame, name="frame_board"),
    path("<int:build_id>/boards/mark/", layout_views.mark, name="mark_board"),
    path("<int:build_id>/boards/unmark/<int:mark_id>/", layout_views.unmark, name="unmark"),
    path("<int:build_id>/glue/<int:part_id>/", glue_views.glue, name="build_glue"),
    path("<int:build_id>/begin/", bench_views.begin, name="build_begin"),
    path("<int:build_id>/milling/", bench_views.milling, name="build_milling"),
    path("<int:build_id>/year/", year_views.first_year, name="build_year"),
    path("<int:build_id>/year/measured/", year_views.measured, name="build_measured"),
    path("<int:build_id>/year/measured/<int:measured_id>/", year_views.measured_changed, name="measured_changed"),
    path("<int:build_id>/year/as-made/", year_views.as_made, name="build_as_made"),
    path("<int:build_id>/sheets/", bench_views.sheets, name="build_sheets"),
    path("<int:build_id>/sheet.pdf", bench_views.bench_sheet, name="build_sheet"),
    path("<int:build_id>/labels.pdf", bench_views.part_labels, name="build_labels"),
]
