"""The addresses of the house with the lathe in it."""

from django.urls import include, path

from calm_heron.plugs import mounted
from calm_heron.questions import urls as questions
from calm_heron.urls import urlpatterns as without

inside = [*questions.inside(), *(path(mount, include(addresses)) for mount, addresses in mounted())]
urlpatterns = [path("w/<slug:workshop>/", include(inside)), *questions.outside(), *without]
