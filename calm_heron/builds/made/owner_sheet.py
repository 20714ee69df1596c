"""The sheet that goes with a build to its owner: the air it likes, what it does through the year and is no fault, and what is one."""

from calm_heron.builds.made import year_words
from calm_heron.builds.made.following import BuildYear
from calm_heron.site.dates import full_day
from calm_heron.site.numbers import percent
from wood.units import System, to_fahrenheit

FAULTS = (
    "A joint that opens along its glue, a crack in the wood, a top that no longer lies flat, a door or drawer that sticks while the air is"
    " no damper than that: tell its maker."
)
CARE = (
    "Keep it an arm’s length from heaters and stoves, and out of the sun through a window.",
    "Leave a hand’s breadth of air between it and an outside wall.",
    "Wipe up water at once. Dust it with a dry or barely damp cloth.",
    "Tighten no screw that holds a top in a slot: it has to slide.",
)


def told(year: BuildYear, system: System) -> list[tuple[str, list[str]]]:
    """The sheet, heading by heading, each with its lines."""
    build = year.build
    finish = f", finished with {year.sizing.finish.name.lower()}" if year.sizing.finish else ""
    what = f"Of {year_words.woods_of(year)}{finish}. " if year.parts else ""
    made = (
        f"Made on {full_day(year.since)} to live in {build.place.name}." if year.is_made else f"Being made to live in {build.place.name}."
    )
    told: list[tuple[str, list[str]]] = [("What it is", [what + made])]
    liked = year_words.likes(year)
    if liked is not None:
        room = f"{to_fahrenheit(year_words.ROOM_C):.0f}°F" if system.is_inch else f"{year_words.ROOM_C:.0f}°C"
        told.append(
            (
                "The air it likes",
                [
                    f"Between {percent(liked[0], 0)} and {percent(liked[1], 0)} relative humidity, at about {room}. A small hygrometer"
                    " beside it shows that. Within this it moves as told below, and its gaps and slots were made for that."
                ],
            )
        )
    seen = year_words.no_faults(year, system)
    if seen:
        told.append(("What it does through the year, and is no fault", seen))
    else:
        told.append(("Through the year", ["How much it moves is not known. Expect it to be narrower after winter than after summer."]))
    told.append(("What is a fault", [FAULTS]))
    told.append(("To keep it well", list(CARE)))
    return told
