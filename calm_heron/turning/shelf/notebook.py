"""A notebook of past weights: lines of day, tag and weight in any order and style, understood one by one, with what is asked about each."""

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import date, datetime, timedelta

import numpy as np
from django.core.exceptions import ValidationError
from django.utils import timezone

from calm_heron.site import dates
from calm_heron.stock.models import Piece
from calm_heron.turning import actions
from calm_heron.turning.shelf import shelf_words, weighing
from calm_heron.workshops.fields import NOON, MassField
from wood.errors import OutOfRange
from wood.turning.weight_fit import slips
from wood.turning.weight_logs import MASS_KG, rises, slip, turned_about
from wood.units import System
from wood.written import weighed_mass

MOST_LINES, MOST_LETTERS = 500, 40_000
MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_MONTH = rf"(?P<month>{'|'.join(MONTHS)})[a-z]*\.?"
_YEAR = r"(?P<year>(?:19|20)\d\d)"
ISO = re.compile(rf"(?<![\w-]){_YEAR}[-./](?P<month>\d{{1,2}})[-./](?P<day>\d{{1,2}})(?![\w-])(?:[T ]\d\d:\d\d(?::\d\d)?)?", re.ASCII)
NUMBERS = re.compile(
    r"(?<![\w.-])(?P<first>\d{1,2})(?P<mark>[./-])(?P<second>\d{1,2})(?P=mark)(?P<year>(?:19|20)\d\d|\d\d)?(?![\w-])", re.ASCII
)
DAY_FIRST = re.compile(rf"(?<![\w.-])(?P<day>\d{{1,2}})(?:st|nd|rd|th|\.)?\s*{_MONTH},?(?:\s+{_YEAR}\b)?", re.ASCII | re.IGNORECASE)
MONTH_FIRST = re.compile(rf"(?<![\w-]){_MONTH}\s*(?P<day>\d{{1,2}})(?:st|nd|rd|th)?\b,?(?:\s+{_YEAR}\b)?", re.ASCII | re.IGNORECASE)


@dataclass(frozen=True)
class NotebookLine:
    """A line as it was understood: whose weight, when and what; or what is wrong with it. ``doubt`` is a question about it, which
    ``meant`` has answered, ``known`` says that it is kept already."""

    number: int
    text: str
    piece: Piece | None = None
    at: datetime | None = None
    mass_kg: float | None = None
    wrong: str = ""
    doubt: str = ""
    known: bool = False
    meant: bool = False

    @property
    def whole(self) -> tuple[Piece, datetime, float] | None:
        """Bowl, moment and mass of a line that can be kept; None of one that cannot, or is kept already."""
        if self.wrong or self.known or self.piece is None or self.at is None or self.mass_kg is None:
            return None
        return self.piece, self.at, self.mass_kg


def read(text: str, bowls: Sequence[Piece], system: System, alone: Piece | None = None) -> list[NotebookLine]:
    """Every line that says something.

    Args:
        text: no more than :data:`MOST_LINES` lines; bowls: those that a tag may mean; alone: whose weight a line is
            that names none.
    """
    lines = [
        _line(number, line.strip(), bowls, system, alone)
        for number, line in enumerate(text.splitlines()[:MOST_LINES], 1)
        # A line without a figure is a heading.
        if any(letter.isdigit() for letter in line)
    ]
    return _asked(lines, system)


def _line(number: int, text: str, bowls: Sequence[Piece], system: System, alone: Piece | None) -> NotebookLine:
    line = NotebookLine(number, text[:120])
    plain = text.replace('"', " ")
    if plain.count(",") == 2 and ", " not in plain:
        # A row of CSV.
        plain = plain.replace(",", ";")
    try:
        day, rest = _day_of(plain)
        field = MassField(system, *MASS_KG)
        words = re.sub(r"[;\t|]|,(?!\d)|(?<!\d),", " ", rest).split()
        piece, mass_kg = _whose(words, bowls, field, alone)
    except (ValidationError, ValueError) as wrong:
        return replace(line, wrong=" ".join(wrong.messages) if isinstance(wrong, ValidationError) else str(wrong))
    moment = timezone.now() if day == timezone.localdate() else timezone.make_aware(datetime.combine(day, NOON))
    return replace(line, piece=piece, at=moment, mass_kg=mass_kg)


def _day_of(text: str) -> tuple[date, str]:
    """The day that a line names, and the line without it.

    Raises:
        ValueError: none, none of the calendar, or one that is still to come; in words.
    """
    today = timezone.localdate()
    for pattern in (ISO, NUMBERS, DAY_FIRST, MONTH_FIRST):
        found = pattern.search(text)
        if found is None:
            continue
        named = found.groupdict()
        if pattern is NUMBERS:
            # With points the day comes first everywhere; with strokes as the workshop writes its days.
            first_is_month = named["mark"] != "." and dates.language() == dates.AMERICAN
            month, day = (int(named["first"]), int(named["second"]))[:: 1 if first_is_month else -1]
            if month > 12 >= day:
                month, day = day, month
        else:
            month = MONTHS.index(named["month"].lower()) + 1 if named["month"].isalpha() else int(named["month"])
            day = int(named["day"])
        year = int(named["year"]) if named["year"] else 0
        year += 2000 if 0 < year < 100 else 0
        try:
            on = date(year or today.year, month, day)
            if not year and on > today:
                on = date(today.year - 1, month, day)
        except ValueError:
            raise ValueError(f"“{found[0].strip()}” isn’t a date.") from None
        if on > today:
            raise ValueError(f"{dates.full_day(on)} is in the future.")
        if on.year < 1950:
            raise ValueError(f"Nobody weighed it in {on.year}; is the year mistyped?")
        return on, text[: found.start()] + " " + text[found.end() :]
    raise ValueError("It names no day. Write it as 3 November 2026, 2026-11-03 or 3.11.2026.")


def _whose(words: list[str], bowls: Sequence[Piece], field: MassField, alone: Piece | None) -> tuple[Piece, float]:
    """Whose weight it is and what, from what is left of a line: the tag first or last.

    Raises:
        ValueError, ValidationError: neither can be told; in words.
    """
    if not words:
        raise ValueError("It names no weight.")
    ways = [(words[0], words[1:]), (words[-1], words[:-1])] if len(words) > 1 else []
    for word, mass in ways:
        named = weighing.bowls_named(bowls, word)
        if len(named) == 1:
            try:
                return named[0], field.clean(" ".join(mass))
            except ValidationError:
                continue
    if alone is not None:
        return alone, field.clean(" ".join(words))
    # Neither end names one bowl with a weight beside it: what is wrong is said of the end that looks like a tag.
    tags = [way for way in ways if len(way[0]) > 2 and any(letter.isalpha() for letter in way[0])]
    word, mass = (tags or ways or [(words[0], [])])[0]
    named = weighing.bowls_named(bowls, word)
    if len(named) == 1:
        field.clean(" ".join(mass))
    raise ValueError(shelf_words.which(word, [piece.tag for piece in named]))


def _asked(lines: list[NotebookLine], system: System) -> list[NotebookLine]:
    """The same with what is asked about each beside the others of its bowl and beside what is kept already."""
    result = {line.number: line for line in lines}
    wholes = [(line.number, *line.whole) for line in lines if line.whole is not None]
    for piece in {piece.pk: piece for _, piece, _, _ in wholes}.values():
        entries = weighing.entries_of(piece)
        seen = {(timezone.localdate(entry.at), round(entry.mass_kg, 4)) for entry in entries}
        new: list[tuple[datetime, float, int]] = []
        for number, of, at, mass_kg in wholes:
            key = (timezone.localdate(at), round(mass_kg, 4))
            if of.pk != piece.pk:
                continue
            if key in seen:
                result[number] = replace(result[number], known=True)
            else:
                seen.add(key)
                new.append((at, mass_kg, number))
        rows = sorted([*((entry.at, entry.mass_kg, 0) for entry in entries), *new])
        for number, doubt in _doubts(rows, piece, entries, system).items():
            result[number] = replace(result[number], doubt=doubt)
    return [result[line.number] for line in lines]


def _doubts(
    rows: list[tuple[datetime, float, int]], piece: Piece, entries: Sequence[weighing.WeighedEntry], system: System
) -> dict[int, str]:
    """What is asked about the new ones among a bowl's weights in their order, by line."""
    if not rows:
        return {}
    days = np.array([(at - rows[0][0]) / timedelta(days=1) for at, _, _ in rows])
    masses = np.array([mass for _, mass, _ in rows])
    off = set(slips(days, masses).tolist())
    left = [position for position in range(len(rows)) if position not in off]
    unit_kg = system.scale.unit_kg
    said: dict[int, str] = {}
    for position, (at, mass, number) in enumerate(rows):
        if not number:
            continue
        others = [k for k in left if k != position]
        expected = float(np.interp(days[position], days[others], masses[others])) if others else mass
        before = [k for k in others if k < position]
        try:
            meant = turned_about(mass / unit_kg, expected / unit_kg) if len(others) > 1 else None
            rose = bool(before) and rises(mass, float(masses[before[-1]]))
        except OutOfRange:
            continue
        day_doubt = actions.doubt_of_its_day(piece, entries, at)
        if day_doubt:
            said[number] = day_doubt
        elif meant is not None and (rose or position in off):
            said[number] = f"{weighed_mass(meant * unit_kg, system)}? Two digits may be turned about."
        elif position in off:
            kind = slip(mass, expected)
            said[number] = (
                f"Beside the others it should be about {weighed_mass(expected, system)}. {actions.SLIPS[kind] if kind else ''}".strip()
            )
        elif rose:
            said[number] = f"It had come down to {weighed_mass(float(masses[before[-1]]), system)} before that."
    return said
