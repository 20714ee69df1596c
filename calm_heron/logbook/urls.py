"""The log."""

from django.urls import path

from calm_heron.logbook import views

urlpatterns = [path("", views.log, name="log")]
