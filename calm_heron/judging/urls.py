"""The stock as it stands, a piece's own page, two pieces side by side, and how close uses must be."""

from django.urls import path

from calm_heron.judging import views

urlpatterns = [
    path("stock/", views.stock, name="stock"),
    path("stock/<str:tag>/", views.piece, name="piece"),
    path("stock/<str:tag>/judge/", views.keep_judgement, name="keep_judgement"),
    path("alike/", views.alike, name="alike"),
    path("aim/", views.set_aim, name="set_aim"),
    path("uses/", views.uses, name="uses"),
]
