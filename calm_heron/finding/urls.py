"""Where *Find* lies inside a workshop."""

from django.urls import path

from calm_heron.finding import views

urlpatterns = [path("", views.find, name="find")]
