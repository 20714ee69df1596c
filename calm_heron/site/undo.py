"""Notices that can be taken back: what was just done, with a button that undoes it.

The way back travels in the notice itself (its extra tags, in the signed cookie of the messages): an address and the fields to send there.
What it does is an action like any other, with its own rights and refusals.
"""

import json
from collections.abc import Mapping

from django.contrib import messages
from django.http import HttpRequest

# More than this does not fit into a cookie beside other notices.
MOST_FIELDS = 60


def tell(request: HttpRequest, text: str, address: str, fields: Mapping[str, str | list[str]]) -> None:
    """Say what was done, with the button that undoes it; without it, where it would be too much to carry."""
    flat = [[name, str(value)] for name, values in fields.items() for value in (values if isinstance(values, list) else [values])]
    way = json.dumps([address, flat]) if len(flat) <= MOST_FIELDS else ""
    messages.success(request, text, extra_tags=way)


def way_back(extra_tags: str) -> tuple[str, list[list[str]]] | None:
    """The address and the fields that a notice carries, None where it carries none."""
    try:
        address, fields = json.loads(extra_tags)
    except (TypeError, ValueError):
        return None
    return address, fields
