"""Forms about what a logger recorded."""

from typing import Any

from django import forms

from calm_heron.air.forms import instrument_field
from calm_heron.air.models import CLOCKS, Place
from calm_heron.workshops.fields import CalmForm, sentence
from wood.air import typical_year
from wood.air.logger_files import DateOrder, LoggerClock
from wood.errors import CannotRead

LARGEST_FILE = 20_000_000
LONGEST_PASTED = 6_000_000
# Spreadsheets and archives begin with these.
PACKED = (b"PK\x03\x04", b"\xd0\xcf\x11\xe0", b"\x1f\x8b")
ORDERS = (
    ("", "as it was read"),
    (DateOrder.DAY_FIRST.value, "day, month, year"),
    (DateOrder.MONTH_FIRST.value, "month, day, year"),
)
DEGREES = (("", "as it was read"), ("C", "Celsius"), ("F", "Fahrenheit"))


class LoggerForm(CalmForm):
    """A logger's file, or its rows pasted; ``text`` in the cleaned data is what it says."""

    file = forms.FileField(label="The logger’s file", required=False, help_text="As its program saves it, CSV or text.")
    pasted = forms.CharField(
        label="or its rows, pasted",
        required=False,
        max_length=LONGEST_PASTED,
        strip=False,
        widget=forms.Textarea(attrs={"rows": 5, "class": "rows"}),
    )
    clock = forms.ChoiceField(
        label="Its clock goes by",
        choices=CLOCKS,
        initial=LoggerClock.LOCAL.value,
        help_text="Not asked of a file that names its time zone.",
    )

    def __init__(self, *args: Any, place: Place, **kwargs: Any) -> None:
        self.place = place
        super().__init__(*args, **kwargs)

    def build(self) -> None:
        self.fields["hygrometer"] = instrument_field(self.place, "Recorded by")

    def clean(self) -> dict[str, Any]:
        cleaned = super().clean() or self.cleaned_data
        upload, pasted = cleaned.get("file"), cleaned.get("pasted")
        if not upload and not (pasted or "").strip():
            if not self.errors:
                self.add_error("file", "Choose the logger’s file, or paste its rows.")
            return cleaned
        try:
            cleaned["text"] = text_of(upload) if upload else pasted
        except CannotRead as unread:
            self.add_error("file", sentence(unread.why))
        cleaned["name"] = upload.name[-80:] if upload else "pasted rows"
        return cleaned


def text_of(upload: Any) -> str:
    """What an uploaded file says.

    Raises:
        CannotRead: it is too large, a spreadsheet or an archive, or no text.
    """
    if upload.size > LARGEST_FILE:
        raise CannotRead("file", "", f"this file is larger than {LARGEST_FILE // 1_000_000} MB; send it in parts")
    data = upload.read()
    if data.startswith(PACKED):
        raise CannotRead("file", "", "this is a spreadsheet or a packed file; save it as CSV first")
    return typical_year.text_of(data)


class ReadAsForm(CalmForm):
    """How a file is to be read, where it leaves that open or was read wrongly."""

    all_have_defaults = True

    order = forms.ChoiceField(label="Its days are", choices=ORDERS, required=False)
    degrees = forms.ChoiceField(label="Its degrees are", choices=DEGREES, required=False)

    @property
    def read_as(self) -> dict[str, Any]:
        """The choices as reading a file takes them."""
        cleaned = getattr(self, "cleaned_data", {})
        order, degrees = cleaned.get("order"), cleaned.get("degrees")
        return {"order": DateOrder(order) if order else None, "fahrenheit": {"F": True, "C": False}.get(degrees or "")}
