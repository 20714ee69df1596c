"""How long wood takes to dry."""

from django.urls import path

from calm_heron.drying import views

urlpatterns = [
    path("drying/", views.imagined, name="drying"),
    path("stock/<str:tag>/speed-up/", views.speed_up, name="speed_up"),
    path("stock/<str:tag>/hurry/", views.hurry, name="hurry"),
    path("stock/<str:tag>/drying/", views.of_piece, name="piece_drying"),
]
