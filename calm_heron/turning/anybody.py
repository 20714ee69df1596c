"""Turning's questions as anybody may ask them, without an account."""

from django.urls import path

from calm_heron.turning import views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("rough/", asked_by_anybody(views.rough), name="anybody_rough"),
    path("cut/", asked_by_anybody(views.cut), name="anybody_cut"),
]
