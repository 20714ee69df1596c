"""All addresses. Inside ``w/<workshop>/`` every view goes through the workshop's door."""

from django.urls import include, path

from calm_heron.ask import front as ask
from calm_heron.devices.door import door
from calm_heron.jobs import views as jobs
from calm_heron.people import views as people
from calm_heron.plugs import mounted, mounted_open
from calm_heron.questions import urls as questions
from calm_heron.site import views as site
from calm_heron.workshops.kept import was_kept

# A question's address comes before those of its app, which may end in a name of somebody's own.
inside = [
    path("kept/", was_kept, name="was_kept"),
    *questions.inside(),
    *(path(mount, include(addresses)) for mount, addresses in mounted()),
]

urlpatterns = [
    path("", ask.front, name="front"),
    path("alive/", site.alive, name="alive"),
    path("ready/", jobs.ready, name="ready"),
    path("metrics/", jobs.metrics, name="metrics"),
    path("operator/", jobs.queue, name="operator"),
    path("operator/again/<int:job_id>/", jobs.again, name="job_again"),
    path("appearance/", site.appearance, name="appearance"),
    # The address somebody signs in with does not change yet, and nobody here is without a password.
    path("accounts/email/", site.not_found),
    path("accounts/password/set/", site.not_found),
    path("accounts/", include("allauth.account.urls")),
    path("accounts/second-step/", include("allauth.mfa.urls")),
    path("demo/", include("calm_heron.demo.urls")),
    path("workshops/", people.choose, name="workshops"),
    path("workshops/new/", people.create_workshop, name="found_workshop"),
    path("join/<str:token>/", people.join, name="join"),
    *questions.outside(),
    *(path(mount, include(addresses)) for mount, addresses in mounted_open()),
    path("devices/v1/", door.urls),
    path("w/<slug:workshop>/", include(inside)),  # type: ignore[arg-type]
]

handler404 = "calm_heron.site.views.not_found"
handler403 = "calm_heron.site.views.forbidden"
handler500 = "calm_heron.site.views.broken"
