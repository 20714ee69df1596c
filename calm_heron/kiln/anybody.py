"""Kiln questions as anybody may ask them, without an account."""

from django.urls import path

from calm_heron.kiln import hand_over, views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("", asked_by_anybody(views.load), name="anybody_kiln"),
    path("heat/", asked_by_anybody(views.clear_by_heat), name="anybody_heat"),
    path("prongs/", asked_by_anybody(views.is_done), name="anybody_prongs"),
    path("dried-by-others/", asked_by_anybody(hand_over.questions), name="anybody_dried_by"),
]
