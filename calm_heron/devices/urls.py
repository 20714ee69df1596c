"""Devices inside a workshop."""

from django.urls import path

from calm_heron.devices import views

urlpatterns = [
    path("", views.devices, name="devices"),
    path("new/<slug:kind>/", views.new_device, name="new_device"),
    path("<int:device_id>/out/", views.shut_out, name="shut_out_device"),
]
