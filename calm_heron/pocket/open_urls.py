"""What is shipped to phones, for anybody. The worker's address is that of all it may look after."""

from django.urls import path

from calm_heron.pocket import views

urlpatterns = [
    path("pocket/", views.pocket, name="pocket"),
    path("calm-heron.webmanifest", views.manifest, name="manifest"),
    path("calm-heron.crt", views.authority, name="authority"),
    path("sw.js", views.service_worker, name="service_worker"),
]
