"""Stock: the list and the form of a board. A piece's own page is the verdict's (see judging)."""

from django.urls import path

from calm_heron.stock import views

urlpatterns = [
    path("", views.stock, name="stock"),
    path("new/", views.new_board, name="new_board"),
    path("species/", views.species_found, name="species_found"),
    path("<str:tag>/change/", views.change_board, name="change_board"),
]
