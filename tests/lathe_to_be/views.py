"""The lathe's page."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from calm_heron.workshops.doors import in_workshop


@in_workshop()
def lathe(request: HttpRequest) -> HttpResponse:
    return render(request, "lathe_to_be/lathe.html")
