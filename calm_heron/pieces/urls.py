"""The list of the stock, and the page of each piece. What changes either lies with the app whose it is."""

from django.urls import path

from calm_heron.pieces import views

urlpatterns = [
    path("stock/", views.stock, name="stock"),
    path("stock/<str:tag>/", views.piece, name="piece"),
]
