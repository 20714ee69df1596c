"""Verdicts kept, two pieces side by side, what verdicts start from, and how close uses must be."""

from django.urls import path

from calm_heron.judging import views

urlpatterns = [
    path("stock/<str:tag>/judge/", views.keep_judgement, name="keep_judgement"),
    path("stock/<str:tag>/aim/", views.set_piece_purpose, name="piece_aim"),
    path("compare/", views.compare, name="compare"),
    path("aim/", views.set_workshop_purpose, name="set_aim"),
    path("air/<int:place_id>/record/", views.site_record, name="site_record"),
    path("uses/", views.uses, name="uses"),
]
