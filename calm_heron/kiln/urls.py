"""The kiln inside a workshop; for everybody its questions lie in :mod:`calm_heron.kiln.anybody`."""

from django.urls import path

from calm_heron.kiln import hand_over, views
from calm_heron.workshops.askers import asked_by_members

urlpatterns = [
    path("plan/", asked_by_members(views.load), name="ask_kiln"),
    path("heat/", asked_by_members(views.clear_by_heat), name="ask_heat"),
    path("prongs/", asked_by_members(views.prong_test), name="ask_prongs"),
    path("dried-by-others/", asked_by_members(hand_over.questions), name="ask_dried_by"),
]
