"""The kiln."""

from django.urls import path

from tests.kiln_to_be import views

urlpatterns = [path("", views.kiln, name="kiln")]
