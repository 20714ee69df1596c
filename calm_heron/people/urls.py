"""The people of one workshop."""

from django.urls import path

from calm_heron.people import views

urlpatterns = [
    path("", views.people, name="people"),
    path("invite/", views.invite, name="invite"),
    path("withdraw/", views.withdraw, name="withdraw"),
    path("new-password/", views.new_password, name="new_password"),
    path("role/", views.change_role, name="change_role"),
    path("backup/", views.backup, name="backup"),
    path("units/", views.set_units, name="set_units"),
]
