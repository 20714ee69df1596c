"""How a build stands, in words: each state with its reason and its next step, days with their years, and what counts outdoors."""

from datetime import date, timedelta
from types import SimpleNamespace

import numpy as np
from django.test import SimpleTestCase

from calm_heron.builds import log_words, words
from calm_heron.site.numbers import counted
from tests.sentences import Sentences
from wood.builds.choosing import Durability
from wood.judging.readiness import State
from wood.species import species_named
from wood.units import INCH, METRIC
from wood.uses import GENERAL, OUTDOORS, STRIP_FLOOR

TODAY = date(2026, 11, 27)


def part(name: str = "Top", state: State | None = State.READY, species: str = "white_oak") -> SimpleNamespace:
    """A part of a build, from one board in this state; None: of no board yet."""
    wood = SimpleNamespace(state=state, ready=lambda today: None)
    row = SimpleNamespace(name=name, figure="", species_key=species, species=species_named(species))
    return SimpleNamespace(part=row, woods=(wood,) if state else (), state=state, waits=state is State.WAIT)


def build(parts=None, **changed) -> SimpleNamespace:
    """A table for the front room, due in spring, with all of its wood there."""
    parts = [part(), part("Leg")] if parts is None else parts
    ready = [item for item in parts if item.state is State.READY]
    of_build = {
        "done_on": None,
        "due": date(2027, 3, 1),
        "use_key": GENERAL.key,
        "sapwood_out": True,
        "place": SimpleNamespace(name="Front room", traits=SimpleNamespace(is_outdoors=False), __str__=lambda self: "Front room"),
    }
    of_build |= {name: changed.pop(name) for name in list(changed) if name in of_build}
    row = SimpleNamespace(**of_build, days_to_due=lambda today: (of_build["due"] - today).days if of_build["due"] else None)
    state = {
        "build": row,
        "parts": parts,
        "without_wood": [item for item in parts if not item.woods],
        "ready": ready,
        "sold_or_used": [],
        "is_ready": bool(parts) and len(ready) == len(parts),
        "may_be_begun": bool(parts) and len(ready) == len(parts),
        "moving": [],
        "saw": SimpleNamespace(unlaid=[]),
        "pending": [],
        "latest": None,
        "unknown": [],
        "waiting": [],
        "today": TODAY,
        "late_days": None,
    }
    return SimpleNamespace(**(state | changed))


def board(tag: str) -> SimpleNamespace:
    return SimpleNamespace(tag=tag)


def latest(days: float, low: float | None = None, high: float | None = None) -> SimpleNamespace:
    return SimpleNamespace(days=days, low=days * 0.7 if low is None else low, high=days * 1.5 if high is None else high)


WAITING = [part(), part("Leg", State.WAIT)]


class HowItStands(Sentences, SimpleTestCase):
    def said(self, state: SimpleNamespace) -> words.BuildWords:
        text = words.build_words(state)
        self.assert_readable(text.reason)
        if text.next_step:
            self.assert_readable(text.next_step)
        self.assert_clean(text.word, text.beside)
        return text

    def test_every_state_has_its_word(self):
        states = {
            "Done": build(done_on=date(2026, 11, 1)),
            "No parts yet": build(parts=[]),
            "Wood is missing": build(parts=[part(), part("Apron", None)]),
            "Start": build(),
            "Being worked out": build(parts=WAITING, pending=[board("oak-01")]),
            "Cannot tell": build(parts=WAITING, unknown=[board("oak-01")]),
            "Nearly": build(parts=WAITING, latest=latest(0.2)),
            "Not in this air": build(parts=WAITING, latest=latest(np.inf), waiting=[SimpleNamespace(piece=board("oak-01"))]),
            "About 7 January 2027": build(parts=WAITING, latest=latest(41.0), waiting=[SimpleNamespace(piece=board("oak-01"))]),
        }
        for word, state in states.items():
            with self.subTest(word):
                self.assertEqual(self.said(state).word, word)

    def test_parts_without_wood_are_named_and_the_ready_ones_counted(self):
        said = self.said(build(parts=[part(), *(part(f"Rail {n}", None) for n in range(6))]))
        self.assertIn("1 of 7 parts have wood that is ready", said.reason)
        self.assertIn("Rail 0, Rail 1, Rail 2, Rail 3 and 2 more", said.reason)

    def test_boards_that_were_sold_are_named(self):
        said = self.said(build(sold_or_used=[board("oak-01"), board("oak-02")]))
        self.assertIn("oak-01 and oak-02", said.reason)

    def test_what_is_ready_goes_to_the_saw_or_is_laid_first(self):
        self.assertIn("bench sheet", self.said(build()).next_step)
        self.assertIn("Place the rest", self.said(build(saw=SimpleNamespace(unlaid=["A2"]))).next_step)

    def test_a_due_day_is_held_against_it(self):
        waits = {"parts": WAITING, "latest": latest(41.0), "waiting": [SimpleNamespace(piece=board("oak-01"))]}
        late = self.said(build(late_days=32.0, **waits))
        self.assertIn("32 days before its wood is ready", late.reason)
        self.assertIn("speed it up", late.next_step)
        early = self.said(build(late_days=-20.0, **waits))
        self.assertIn("20 days left to make it", early.reason)
        self.assertNotIn("due", self.said(build(due=None, late_days=None, **waits)).reason)

    def test_a_floor_goes_by_the_houses_year(self):
        said = self.said(build(parts=WAITING, latest=latest(41.0), use_key=STRIP_FLOOR.key))
        self.assertIn("the house’s year", said.next_step)

    def test_one_part_has_and_several_have(self):
        self.assertIn("1 of 2 parts has wood", self.said(build(parts=WAITING, latest=latest(41.0))).reason)
        three = [part(), part("Leg"), part("Rail", State.WAIT)]
        self.assertIn("2 of 3 parts have wood", self.said(build(parts=three, latest=latest(41.0))).reason)


class Days(Sentences, SimpleTestCase):
    def test_a_band_names_a_year_once(self):
        self.assertEqual(words.between(TODAY, 41, 111), "7 January to 18 March 2027")
        self.assertEqual(words.between(TODAY, 10, 20), "7 December to 17 December")
        self.assertEqual(words.between(TODAY, 10, 60), "7 December to 26 January 2027")
        self.assertIn("no end in sight", words.between(TODAY, 10, np.inf))

    def test_a_due_day_that_is_past_is_told_so(self):
        self.assertEqual(words.due_words(build(due=None)), "")
        self.assertEqual(words.due_words(build(due=TODAY + timedelta(days=3))), "30 November")
        self.assertEqual(words.due_words(build(due=TODAY - timedelta(days=3))), "24 November (past)")

    def test_in_a_list_the_trouble_comes_first(self):
        self.assertEqual(words.in_list(build()), "can start")
        self.assertEqual(words.in_list(build(parts=WAITING, late_days=9.0)), "due 9 days before its wood is ready")
        self.assertEqual(words.in_list(build(parts=WAITING)), "due 1 March 2027")

    def test_a_part_says_when_it_waits(self):
        self.assertEqual(words.when_of(part(), TODAY), "")
        self.assertEqual(words.when_of(part(state=State.WAIT), TODAY), "")
        self.assertEqual(words.state_of(part(state=None)), "No wood yet")
        for state in State:
            self.assertEqual(words.state_of(part(state=state)), words.STATES[state])


class Outdoors(Sentences, SimpleTestCase):
    def outside(self, *species: str, **changed) -> SimpleNamespace:
        return build(parts=[part(f"Slat {n}", species=key) for n, key in enumerate(species)], use_key=OUTDOORS.key, **changed)

    def test_indoors_nothing_is_said(self):
        self.assertEqual(words.outdoor_notes(build()), [])

    def test_each_wood_is_told_once(self):
        notes = words.outdoor_notes(self.outside("white_oak", "white_oak", "sugar_maple"))
        self.assert_readable(*notes)
        self.assertEqual(len(notes), 3)

    def test_a_wood_that_does_not_last_is_told_so(self):
        (maple, _) = words.outdoor_notes(self.outside("sugar_maple"))
        self.assertIn("won’t last", maple)
        (oak, _) = words.outdoor_notes(self.outside("white_oak"))
        self.assertNotIn("won’t last", oak)

    def test_sapwood_that_stays_in_is_told(self):
        self.assertIn("Sapwood", " ".join(words.outdoor_notes(self.outside("white_oak", sapwood_out=False))))
        self.assertNotIn("Sapwood", " ".join(words.outdoor_notes(self.outside("white_oak"))))

    def test_every_durability_has_its_words(self):
        self.assertEqual(set(words.DECAY), set(Durability))
        self.assert_clean(*words.DECAY.values())


class Lists(Sentences, SimpleTestCase):
    def test_names_run_to_an_end(self):
        for count in range(1, 9):
            said = words.listed([f"oak-{n}" for n in range(count)])
            with self.subTest(count):
                self.assert_clean(said)
                self.assertEqual("more" in said, count > 4)
                self.assertEqual(" and " in said, count > 1)
        self.assertEqual(words.listed([]), "")

    def test_counts_have_their_number(self):
        self.assertEqual([counted(n, "board") for n in (0, 1, 2)], ["0 boards", "1 board", "2 boards"])

    def test_the_log_counts_in_english(self):
        for count in (1, 2):
            for name in ("deleted", "done"):
                said = log_words.LOG[name]({"subject": "Bench", "boards": count}, METRIC)
                self.assertIn("1 board " if count == 1 else "2 boards ", said.replace(",", "").replace(" let", " let") + " ")
            for system in (INCH, METRIC):
                self.assertIn("part", log_words.LOG["laid_out"]({"subject": "Bench", "pieces": count, "boards": 3}, system))
