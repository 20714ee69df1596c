"""The verdict is a piece's own page."""

from django.urls import path

from calm_heron.judging import views

urlpatterns = [
    path("stock/<str:tag>/", views.piece, name="piece"),
    path("stock/<str:tag>/judge/", views.keep_judgement, name="keep_judgement"),
    path("aim/", views.set_aim, name="set_aim"),
]
