"""Movement of a board."""

from django.urls import path

from calm_heron.movement import views

urlpatterns = [
    path("stock/<str:tag>/movement/", views.movement, name="movement"),
    path("stock/<str:tag>/movement/keep/", views.keep_pith, name="keep_pith"),
]
