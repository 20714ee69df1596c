"""The one view of all questions: read the form, put the question, work it out, tell it."""

from typing import Any
from urllib.parse import urlencode

from django.core.exceptions import ValidationError
from django.http import HttpResponse, QueryDict
from django.shortcuts import render

from calm_heron.questions.forms import QuestionForm, in_units
from calm_heron.questions.presentation import Drawn, Presentation
from calm_heron.questions.tools import CannotPut, Put, Reader, StillToSay, Tool, Why
from calm_heron.workshops.askers import Asker, AskerRequest
from wood.errors import CannotRead, NotKnown, OutOfRange
from wood.species import trade_name
from wood.units import SYSTEMS

# The answer alone, where a form is live; the parameter that asks for it, and its value.
FRAGMENT, ANSWER = "fragment", "answer"
# Parts of an address that are no fields of the form: the piece or place asked about, the units typed in, and what scripts add.
CARRIED = ("piece", "units", FRAGMENT, "pdf")
MOST_LETTERS = 20_000


def ask(request: AskerRequest, tool: Tool[Any, Any, Any], **more: str) -> HttpResponse:
    """A question's page, or its answer alone (``fragment=answer``)."""
    asker: Asker = request.asker
    assert tool.form is not None
    subject = tool.subject.find(asker, request.GET.get("piece", "")[:60]) if tool.subject else None
    typed = typed_in(request.GET, tool.form, asker, subject)
    form = tool.form(typed, asker=asker)
    alone = request.GET.get(FRAGMENT) == ANSWER
    page: dict[str, Any] = {
        "tool": tool,
        "form": form,
        "subject": subject,
        "asker": asker,
        "system": asker.system,
        "layout": asker.layout,
        "shared_as": tool.title,
        "fragment": alone,
        "part": tool.key,
        "taken_as": trade_name(typed.get("species_key", "")[:60]),
        "other_units": "" if alone or asker.is_member else other_units(typed, tool.form, asker),
    }
    if form.is_valid():
        page |= answered(tool, form, asker, subject)
    if tool.sheet and "put" in page and request.GET.get("pdf"):
        sheet = tool.sheet(page["put"], page["worked"], page["reader"])
        return HttpResponse(sheet, content_type="application/pdf", headers={"Content-Disposition": f'inline; filename="{tool.key}.pdf"'})
    return render(request, "questions/answer.html" if alone else "questions/page.html", page)


def answered(tool: Tool[Any, Any, Any], form: QuestionForm, asker: Asker, subject: Any) -> dict[str, Any]:
    """What a page shows of a valid form: see :func:`shown`; nothing where the form then has errors."""
    assert tool.put is not None
    try:
        put = tool.put(form, asker, subject)
        if isinstance(put, CannotPut):
            return {"cannot": put}
        typed = [(name, value) for name, value in form.data.items() if value]
        return shown(tool, put, Reader(asker, typed=urlencode([*typed, ("units", asker.system.key)] if typed else [])))
    except StillToSay as missing:
        return {"cannot": CannotPut(Why.STILL_TO_SAY, str(missing))}
    except ValidationError:
        # Its errors stand beside their fields.
        return {}
    except OutOfRange as beyond:
        form.complain(beyond, called=form.called)
    except CannotRead as unread:
        form.add_error(unread.field if unread.field in form.fields else None, unread.why)
    except NotKnown as unknown:
        return {"cannot": _no_figure(tool, unknown)}
    return {}


def shown(tool: Tool[Any, Any, Any], put: Put[Any], reader: Reader) -> dict[str, Any]:
    """What ``questions/answer.html`` shows of a question that can be put: the answer, how it is told, and its parts with their drawings; or
    why there is none.

    Raises:
        OutOfRange, CannotRead: what was asked does not go together.
    """
    assert tool.work is not None
    assert tool.present is not None
    try:
        answer = tool.work(put.question)
    except NotKnown as unknown:
        return {"cannot": _no_figure(tool, unknown)}
    presentation = tool.present(put, answer, reader)
    return {
        "put": put,
        "reader": reader,
        "worked": answer,
        "presentation": presentation,
        "presented_parts": _drawn(tool, put, answer, reader, presentation),
    }


def _no_figure(tool: Tool[Any, Any, Any], unknown: NotKnown) -> CannotPut:
    return CannotPut(Why.NO_FIGURE, tool.not_known.format(subject=unknown.subject.lower()))


def _drawn(tool: Tool[Any, Any, Any], put: Put[Any], answer: Any, reader: Reader, presentation: Presentation) -> list[dict[str, Any]]:
    """The parts in order, each with its template; drawings for both widths."""
    parts = []
    for part in presentation.parts:
        shown: dict[str, Any] = {"part": part, "template": f"questions/parts/{part.part}.html"}
        if isinstance(part, Drawn):
            drawing = tool.drawings[part.name]
            shown["drawing_template"] = drawing.template
            widths = (("", True),) if drawing.any_width else (("wide-only", False), ("narrow-only", True))
            shown["drawings"] = [(shows, drawing.make(put, answer, reader, narrow)) for shows, narrow in widths]
        parts.append(shown)
    return parts


def typed_in(address: QueryDict, form: type[QuestionForm], asker: Asker, subject: Any) -> QueryDict:
    """What an address holds of a form, in the reader's units; where it holds nothing, what the question begins with."""
    begun = form.begins_with(asker, subject)
    data = QueryDict(mutable=True)
    if not any(name not in CARRIED for name in address):
        data.update(begun)
        return data
    typed = {name: str(value)[:MOST_LETTERS] for name, value in address.items() if name not in CARRIED}
    before = SYSTEMS.get(address.get("units", ""), asker.system)
    if before.key != asker.system.key:
        typed = in_units(form, typed, asker, before)
    data.update({name: begun[name] for name in form.always if name in begun} | typed)
    return data


def other_units(typed: QueryDict, form: type[QuestionForm], asker: Asker) -> str:
    """The same question for a reader of the other system: nothing that was typed changes what it means."""
    data = QueryDict(mutable=True)
    data.update(in_units(form, {name: str(value) for name, value in typed.items() if value}, asker, asker.system))
    data["units"] = next(key for key in SYSTEMS if key != asker.system.key)
    return data.urlencode()
