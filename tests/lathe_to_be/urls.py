"""The lathe."""

from django.urls import path

from tests.lathe_to_be import views

urlpatterns = [path("", views.lathe, name="lathe")]
