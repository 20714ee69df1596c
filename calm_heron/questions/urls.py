"""The addresses of all questions, from their registration: inside a workshop, and for anybody."""

from collections.abc import Callable
from functools import partial
from typing import Any

from django.http import HttpResponse
from django.urls import URLPattern, path

from calm_heron.questions import views
from calm_heron.questions.tools import TOOLS, Tool
from calm_heron.workshops.askers import asked_by_anybody, asked_by_members


def _view(tool: Tool[Any, Any, Any]) -> Callable[..., HttpResponse]:
    return tool.view or partial(views.ask, tool=tool)


def inside() -> list[URLPattern]:
    """Those of a workshop."""
    return [path(tool.inside, asked_by_members(_view(tool)), name=tool.inside_name) for tool in TOOLS]


def outside() -> list[URLPattern]:
    """Those for everybody."""
    return [path(tool.outside, asked_by_anybody(_view(tool), heavy=tool.heavy), name=tool.outside_name) for tool in TOOLS if tool.outside]
