"""What lies beside the questions for those without an account: the choice of them, the species search, and the way into a workshop of one's
own.
"""

from django.urls import path

from calm_heron.ask import keeping, views
from calm_heron.workshops.askers import asked_by_anybody

urlpatterns = [
    path("", asked_by_anybody(views.index), name="anybody"),
    path("species/", asked_by_anybody(views.species), name="anybody_species"),
    path("keep/<str:name>/", keeping.carry_on, name="carry_on"),
]
