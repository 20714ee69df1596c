"""The kiln's page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.workshops.doors import in_workshop


@in_workshop()
def kiln(request: HttpRequest) -> HttpResponse:
    return render(request, "kiln_to_be/kiln.html")
