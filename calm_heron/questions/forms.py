"""What a question's form is: its fields in groups, on which choice some of them hang, and what it begins with."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar

from django import forms
from django.forms import BoundField

from calm_heron.workshops.askers import Asker
from calm_heron.workshops.fields import CalmForm
from wood.units import System


@dataclass(frozen=True)
class Group:
    """Fields that stand together, by name; with a ``summary`` they are folded away until asked for."""

    fields: tuple[str, ...]
    summary: str = ""
    hint: str = ""


class SeveralNumbers(forms.TextInput):
    """Several numbers in a row. A keyboard with figures has no room for a space: the button beside the field makes one."""

    template_name = "questions/several.html"

    def __init__(self, attrs: Any = None) -> None:
        super().__init__({"inputmode": "decimal", "autocomplete": "off"} | (attrs or {}))


class QuestionForm(CalmForm):
    """The form of a question. Every field may stay empty: then what is usual counts.

    ``groups`` are its fields as they stand on the page; ``depends`` names, for a field, the choice and its values that make it matter
    (“where=heated shed”); ``wide`` are those that take a line of their own; ``always`` are fields that an address which leaves them out has
    as the question begins. ``called`` names fields that the core calls otherwise.
    """

    all_have_defaults = True
    groups: ClassVar[tuple[Group, ...]] = ()
    depends: ClassVar[Mapping[str, str]] = {}
    wide: ClassVar[tuple[str, ...]] = ()
    always: ClassVar[tuple[str, ...]] = ()
    called: ClassVar[Mapping[str, str]] = {}
    # Fields that stand in no group: a slider beside the drawing, the month that a button names. They only tell.
    tells: ClassVar[tuple[str, ...]] = ()
    submit = "Work it out"
    # Begun empty, as at the rack: the fields stand first, and the answer behind them.
    answer_below = False

    def __init__(self, *args: Any, asker: Asker, **kwargs: Any) -> None:
        self.asker = asker
        super().__init__(*args, membership=asker.membership, **kwargs)
        del self.fields["once"]

    @classmethod
    def begins_with(cls, asker: Asker, subject: Any) -> dict[str, str]:
        """What stands in the form before anything was typed, as it would be typed."""
        return {}

    @property
    def shown_groups(self) -> list[dict[str, Any]]:
        """The groups with their fields as the page shows them; a folded one that holds a mistake is open."""
        shown = []
        for group in self.groups:
            bound = [self[name] for name in group.fields if name in self.fields]
            if bound:
                rows = [
                    (field, self._depends_on(field.name), field.name.endswith("species_key"), field.name in self.wide) for field in bound
                ]
                choices = {depends for _, depends, *_ in rows}
                # A group that one choice makes matter goes as a whole.
                whole = choices.pop() if len(choices) == 1 else ""
                shown.append(
                    {
                        "summary": group.summary,
                        "hint": group.hint,
                        "fields": rows,
                        "depends": whole,
                        "open": any(field.errors for field in bound),
                    }
                )
        return shown

    def _depends_on(self, name: str) -> str:
        """The choice that makes a field matter, where that is asked here."""
        choice = self.depends.get(name, "")
        return choice if choice.partition("=")[0] in self.fields else ""

    @property
    def inputs(self) -> list[tuple[str, str, bool]]:
        """What was asked, for paper: each field's label, what stands in it, and whether that is only what is usual."""
        return [
            (str(self[name].label), _shown(self[name]), not self[name].value())
            for group in self.groups
            for name in group.fields
            if name in self.fields
        ]


def _shown(field: BoundField) -> str:
    """What stands in a field as it reads on paper: the words of a choice, the first where none was made; what stands for an empty field in
    it.
    """
    value = str(field.value() or "")
    offered = [
        pair
        for key, words in getattr(field.field, "choices", [])
        for pair in (words if isinstance(words, list | tuple) else ((key, words),))
    ]
    if offered:
        return next((str(words) for key, words in offered if str(key) == value), str(offered[0][1]))
    return value or str(field.field.widget.attrs.get("placeholder", ""))


def in_units(form: type[QuestionForm], typed: dict[str, str], asker: Asker, before: System) -> dict[str, str]:
    """What was typed in another system, for a reader of this one: each field that reads units says how its text then reads."""
    readers = {name: field.in_units for name, field in form({}, asker=asker).fields.items() if hasattr(field, "in_units")}
    return {name: readers[name](text, before) if name in readers else text for name, text in typed.items()}
