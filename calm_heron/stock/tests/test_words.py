"""How pieces are written: their sizes by kind, how much wood they are, what is known of them, and what must hold of a piece as a whole."""

from datetime import date, timedelta

from django.test import SimpleTestCase, TestCase
from django.utils import timezone

from calm_heron.stock import checks, words
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import Piece, Status
from calm_heron.stock.templatetags import piece_words
from tests.factories import make_board, make_bowl, make_lot, make_owner
from tests.sentences import Sentences
from wood.units import INCH, INCH_M, METRIC

IN = INCH_M


def piece(kind: PieceKind = PieceKind.BOARD, **more) -> Piece:
    """An oak board 1 1/16 in thick, 8 in wide, 8 ft long, or something else of these sizes."""
    fields = {"species_key": "white_oak", "thickness_m": 0.027, "width_m": 8 * IN, "length_m": 96 * IN, "ring_angle_deg": 10.0, "count": 1}
    return Piece(tag="oak-01", kind=kind, **(fields | more))


class Sizes(Sentences, SimpleTestCase):
    def test_a_board_is_thickness_width_and_length(self):
        self.assertEqual(piece_words.sizes(piece(), INCH), "1 1/16 in × 8 in × 8 ft")
        self.assertEqual(piece_words.sizes(piece(thickness_m=0.027, width_m=0.2, length_m=2.4), METRIC), "27 mm × 200 mm × 2400 mm")

    def test_a_nominal_size_is_spoken_of_as_it_was_bought(self):
        self.assertTrue(piece_words.sizes(piece(nominal="5/4"), INCH).startswith("5/4 × "))
        planed = piece_words.thickness(piece(nominal="5/4", dressed=True, thickness_m=1.0625 * IN), INCH)
        self.assertEqual(planed, "5/4 planed to 1 1/16 in")

    def test_round_wood_has_its_diameter(self):
        for kind in (PieceKind.LOG, PieceKind.BLANK, PieceKind.BOWL):
            said = piece_words.sizes(piece(kind, width_m=0.3, length_m=0.1, thickness_m=0.03), METRIC)
            with self.subTest(kind):
                self.assertTrue(said.startswith("⌀ 300 mm"))
                self.assert_clean(said)

    def test_a_bowl_says_its_height_and_wall(self):
        said = piece_words.sizes(piece(PieceKind.BOWL, width_m=0.3, length_m=0.1, thickness_m=0.03), METRIC)
        self.assertEqual(said, "⌀ 300 mm, 100 mm high, wall 30 mm")

    def test_every_kind_can_be_written_in_both_systems(self):
        for kind in PieceKind:
            for system in (INCH, METRIC):
                self.assert_clean(piece_words.sizes(piece(kind), system), piece_words.amount(piece(kind), system))


class HowMuch(TestCase):
    def test_sawn_wood_is_counted_in_board_feet_in_an_inch_shop(self):
        self.assertEqual(piece_words.amount(piece(thickness_m=IN, width_m=12 * IN, length_m=12 * 12 * IN), INCH), "12.0 bd ft")
        self.assertNotIn("bd ft", piece_words.amount(piece(), METRIC))

    def test_a_lot_is_all_of_its_boards(self):
        one, many = (piece_words.amount(piece(thickness_m=IN, width_m=12 * IN, length_m=144 * IN, count=n), INCH) for n in (1, 10))
        self.assertEqual((one, many), ("12.0 bd ft", "120.0 bd ft"))

    def test_a_log_has_its_volume(self):
        self.assertNotIn("bd ft", piece_words.amount(piece(PieceKind.LOG, width_m=0.4, length_m=2.0, thickness_m=0.4), INCH))

    def test_a_lot_says_how_many_of_what(self):
        self.assertEqual(piece_words.wood_of(piece()), "White oak")
        self.assertEqual(piece_words.wood_of(piece(count=40)), "40 × White oak")


class WhatIsKnown(Sentences, TestCase):
    def test_nothing_is_nothing(self):
        self.assertEqual(piece_words.what_is_known(piece()), "")

    def test_all_of_it_is_a_sentence_each(self):
        said = piece_words.what_is_known(
            piece(
                felled_on=date(2025, 2, 3),
                sawn_on=date(2025, 3, 4),
                source="the mill at the ford",
                ends_sealed=True,
                has_pith=True,
                has_sapwood=True,
                defects="a knot at one end",
                note="For the table.",
            )
        )
        self.assert_readable(said)
        for expected in ("3 Feb 2025", "4 Mar 2025", "the mill at the ford", "Ends sealed", "The pith is in it", "sapwood", "a knot"):
            self.assertIn(expected, said)

    def test_a_description_leaves_out_what_goes_without_saying(self):
        said = piece_words.description(piece(), METRIC)
        self.assertTrue(said.startswith("White oak, 27 mm"))
        self.assertIn("bowl", piece_words.description(piece(PieceKind.BOWL), METRIC))


class AsAWhole(SimpleTestCase):
    TODAY = date(2026, 5, 1)

    def wrong(self, kind: PieceKind = PieceKind.BOARD, typed: str = "27", **values) -> tuple[dict, dict]:
        values = {"thickness_m": 0.027, "width_m": 0.2, "length_m": 2.4} | values
        return checks.complete(kind, values, typed), values

    def test_what_was_typed_as_a_nominal_size_stays_one(self):
        wrong, values = self.wrong(typed="8/4")
        self.assertEqual((wrong, values["nominal"]), ({}, "8/4"))
        self.assertEqual(self.wrong(typed="27")[1]["nominal"], "")

    def test_planed_wood_has_the_thickness_that_is_left(self):
        wrong, values = self.wrong(typed="4/4", dressed=True)
        self.assertEqual(wrong, {})
        self.assertLess(values["thickness_m"], IN)

    def test_planed_wood_of_no_nominal_size_is_asked_about(self):
        self.assertIn("dressed", self.wrong(typed="27", dressed=True)[0])

    def test_a_round_piece_is_measured_once(self):
        _, values = self.wrong(PieceKind.LOG, thickness_m=None, length_m=None, width_m=0.4)
        self.assertEqual((values["thickness_m"], values["length_m"]), (0.4, 0.4))

    def test_days_that_cannot_be(self):
        tomorrow = timezone.localdate() + timedelta(days=1)
        for values, field in (
            ({"felled_on": date(1799, 12, 31)}, "felled_on"),
            ({"sawn_on": date(1700, 1, 1)}, "sawn_on"),
            ({"felled_on": tomorrow}, "felled_on"),
            ({"sawn_on": tomorrow}, "sawn_on"),
            ({"felled_on": date(2025, 6, 1), "sawn_on": date(2025, 5, 1)}, "sawn_on"),
        ):
            with self.subTest(values):
                self.assertEqual(list(self.wrong(**values)[0]), [field])

    def test_days_that_can_be(self):
        today = timezone.localdate()
        for values in ({"felled_on": today, "sawn_on": today}, {"felled_on": date(1800, 1, 1)}, {"sawn_on": date(2024, 2, 29)}, {}):
            self.assertEqual(self.wrong(**values)[0], {})


class InTheLog(Sentences, TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.pieces = [make_board(cls.owner), make_lot(cls.owner, 12), make_bowl(cls.owner)]

    def said(self, what: str, **data) -> str:
        sentence = words.LOG[what]
        text = sentence.format(subject="oak-01", **data) if isinstance(sentence, str) else sentence({"subject": "oak-01", **data}, METRIC)
        self.assert_clean(text)
        return text

    def test_a_piece_is_added_by_its_kind_and_a_lot_by_its_count(self):
        for kind in PieceKind:
            self.assertIn(kind.label.lower(), self.said("added", count=1, kind_of_piece=kind.value, species="White oak"))
        self.assertIn("lot of 40", self.said("added", count=40, kind_of_piece=PieceKind.BOARD.value, species="White oak"))

    def test_what_changed_is_named_without_its_unit(self):
        self.assertEqual(
            self.said("changed", fields=["width_m", "ring_angle_deg", "species_key"]), "oak-01 changed: width, ring angle, species"
        )

    def test_a_move_says_whence(self):
        self.assertEqual(self.said("moved", to="Bench room", came_from=""), "oak-01 moved to Bench room")
        self.assertEqual(self.said("moved", to="Bench room", came_from="Yard"), "oak-01 moved to Bench room from Yard")

    def test_every_status_has_its_word(self):
        for status in Status:
            self.assertIn(status.label.lower(), self.said("status", status=status.value))

    def test_figures_of_ones_own_are_named(self):
        self.assertIn("specific gravity 12 0.7", self.said("own_figures", figures={"specific_gravity_12": 0.7}))
        self.assertIn("no figures", self.said("own_figures", figures={}))

    def test_a_table_counts_in_english(self):
        self.assertIn("1 piece added", self.said("table_added", count=1, first="oak-01", last="oak-01"))
        self.assertIn("7 pieces added", self.said("table_added", count=7, first="oak-01", last="oak-07"))

    def test_pieces_of_the_stock_describe_themselves(self):
        for one_piece in self.pieces:
            for system in (INCH, METRIC):
                self.assert_clean(piece_words.description(one_piece, system))
