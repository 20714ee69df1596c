"""Today is a workshop's first page."""

from django.urls import path

from calm_heron.today import views

urlpatterns = [path("", views.today, name="today")]
