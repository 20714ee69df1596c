"""All addresses. Inside ``w/<workshop>/`` every view goes through the workshop's door."""

from django.urls import include, path

from calm_heron.devices.door import door
from calm_heron.people import views as people
from calm_heron.plugs import mounted
from calm_heron.site import views as site

inside = [path(mount, include(addresses)) for mount, addresses in mounted()]

urlpatterns = [
    path("", site.front, name="front"),
    path("alive/", site.alive, name="alive"),
    path("appearance/", site.appearance, name="appearance"),
    # The address somebody signs in with does not change yet, and nobody here is without a password.
    path("accounts/email/", site.not_found),
    path("accounts/password/set/", site.not_found),
    path("accounts/", include("allauth.account.urls")),
    path("accounts/second-step/", include("allauth.mfa.urls")),
    path("demo/", include("calm_heron.demo.urls")),
    path("workshops/", people.choose, name="workshops"),
    path("workshops/new/", people.found, name="found_workshop"),
    path("join/<str:token>/", people.join, name="join"),
    path("ask/", include("calm_heron.ask.anybody")),
    path("movement/", include("calm_heron.movement.anybody")),
    path("roads/", include("calm_heron.drying.anybody")),
    path("stack/", include("calm_heron.stacks.anybody")),
    path("kiln/", include("calm_heron.kiln.anybody")),
    path("turning/", include("calm_heron.turning.anybody")),
    path("which-wood/", include("calm_heron.builds.anybody")),
    path("devices/v1/", door.urls),
    path("w/<slug:workshop>/", include(inside)),
]

handler404 = "calm_heron.site.views.not_found"
handler403 = "calm_heron.site.views.forbidden"
handler500 = "calm_heron.site.views.broken"
