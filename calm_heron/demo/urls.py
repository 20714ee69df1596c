"""The door to the demo workshop."""

from django.urls import path

from calm_heron.demo import views

urlpatterns = [path("", views.enter, name="enter_demo")]
