"""The page that works without a network, what makes it installable, and the service worker that keeps it on the phone."""

import hashlib
import json
from functools import cache
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.staticfiles import finders
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from django.shortcuts import render
from django.templatetags.static import static
from django.urls import reverse

from calm_heron.pocket.woods import woods
from wood.movement.widths import SPREAD

# All that the page needs; kept on the phone with it, and nothing else is.
ASSETS = (
    "site/calm-heron.css",
    "site/fonts/atkinson-hyperlegible-next.woff2",
    "site/fonts/bricolage-grotesque.woff2",
    "site/heron.svg",
    "pocket/pocket.js",
    "pocket/wood.js",
)
ICONS = ((192, "any"), (512, "any"), (512, "maskable"))


def pocket(request: HttpRequest) -> HttpResponse:
    """What this air brings wood to, and how much a board will move: worked out on the phone itself."""
    return render(request, "pocket/pocket.html", {"woods": woods(), "spread": 2 * SPREAD})


def manifest(request: HttpRequest) -> HttpResponse:
    """What a phone needs to put Calm Heron among its programs."""
    icons = [
        {"src": static(f"pocket/icon-{size}{'-maskable' if use == 'maskable' else ''}.png"), "sizes": f"{size}x{size}", "purpose": use}
        for size, use in ICONS
    ]
    told = {
        "name": "Calm Heron",
        "short_name": "Calm Heron",
        "description": "Is this wood dry enough?",
        "start_url": reverse("front"),
        "scope": "/",
        "display": "standalone",
        "background_color": "#e6ecee",
        "theme_color": "#2f4657",
        "icons": [{**icon, "type": "image/png"} for icon in icons],
    }
    return JsonResponse(told, content_type="application/manifest+json")


def authority(request: HttpRequest) -> HttpResponse:
    """What a phone is to trust, where this start has a certificate of its own."""
    file = Path(settings.AUTHORITY_FILE) if settings.AUTHORITY_FILE else None
    if file is None or not file.exists():
        raise Http404
    return HttpResponse(file.read_bytes(), content_type="application/x-x509-ca-cert")


def service_worker(request: HttpRequest) -> HttpResponse:
    """The worker, with what it keeps named in front of it: another version wherever one of those is another."""
    kept: dict[str, Any] = {"page": reverse("pocket"), "assets": [static(name) for name in ASSETS]}
    kept["version"] = hashlib.sha256(json.dumps([kept, woods()]).encode() + _worker().encode()).hexdigest()[:16]
    body = f"const KEPT = {json.dumps(kept)};\n{_worker()}"
    return HttpResponse(body, content_type="text/javascript", headers={"Cache-Control": "no-cache"})


@cache
def _worker() -> str:
    found = finders.find("pocket/worker.js")
    assert isinstance(found, str)
    with open(found, encoding="utf-8") as file:
        return file.read()
