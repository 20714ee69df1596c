"""Kinds of wood, lots and what is done to several pieces at once."""

from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from threading import Barrier

from django.db import connection
from django.test import TestCase
from django.utils import timezone

from calm_heron.logbook.models import Entry
from calm_heron.stock import actions
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import LotPart, OwnSpecies, Photo, Piece, Status
from calm_heron.workshops.models import Role, Submission
from calm_heron.workshops.refusals import Refused
from tests.cases import Committing
from tests.factories import a_picture, make_board, make_lot, make_member, make_owner, make_place
from wood.units import INCH_M


class StockCase(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner = make_owner()
        cls.stock = f"/w/{cls.owner.workshop.slug}/stock/"

    def setUp(self):
        self.client.force_login(self.owner.person)


class Kinds(StockCase):
    def send(self, kind, **fields):
        return self.client.post(f"{self.stock}new/?kind={kind}", {"species_key": "white ash", "seasoning": "green", **fields})

    def test_every_kind_is_asked_for_its_own_sizes_and_gets_its_own_tag(self):
        for kind, sizes, tag in (
            (PieceKind.LOG, {"width_m": "400", "length_m": "2.4 m"}, "ash-log-01"),
            (PieceKind.BLANK, {"width_m": "300", "thickness_m": "100"}, "ash-blank-01"),
            (PieceKind.BOWL, {"width_m": "300", "length_m": "120", "thickness_m": "30"}, "ash-bowl-01"),
            (PieceKind.SPINDLE, {"width_m": "60", "thickness_m": "60", "length_m": "300"}, "ash-spindle-01"),
            (PieceKind.FLOORING, {"width_m": "120", "thickness_m": "20", "length_m": "1.8 m", "count": "200"}, "ash-floor-01"),
        ):
            with self.subTest(kind):
                self.assertEqual(self.send(kind, **sizes).status_code, 302)
                self.assertEqual(Piece.objects.latest("id").tag, tag)
        for name in ("grain", "ring_angle_deg", "sawn_on", "thickness_m"):
            self.assertNotIn(name, self.client.get(f"{self.stock}new/?kind=log").context["form"].fields)
        self.assertEqual(self.client.get(f"{self.stock}new/?kind=ship").context["kind"], PieceKind.BOARD)

    def test_volumes_follow_the_shape_and_board_feet_the_nominal_size(self):
        # A 4/4 board of 6 in by 8 ft is four board feet; a log is its middle area times its length.
        board = make_board(self.owner, thickness_m=INCH_M, width_m=6 * INCH_M, length_m=96 * INCH_M, nominal="4/4")
        self.assertAlmostEqual(board.board_feet, 4.0)
        log = make_board(self.owner, kind=PieceKind.LOG, thickness_m=0.4, width_m=0.4, length_m=2.0)
        self.assertAlmostEqual(log.volume_m3, 0.25133, places=4)
        self.assertIsNone(log.board_feet)
        self.assertAlmostEqual(make_lot(self.owner, 10, thickness_m=0.03, width_m=0.2, length_m=2.0).volume_m3, 0.12)

    def test_weight_and_water_follow_from_size_species_and_moisture(self):
        # White oak: 0.60 green gravity, so a green cubic metre holds 600 kg of wood; at 80% 480 kg of water with it.
        board = make_board(self.owner, thickness_m=0.5, width_m=1.0, length_m=2.0)
        contents = board.contents(0.8)
        self.assertAlmostEqual(contents.ovendry_kg, 600, delta=1)
        self.assertAlmostEqual(contents.water_kg, 480, delta=1)
        board.ovendry_mass_kg = 10.0
        self.assertAlmostEqual(board.contents(0.12).mass_kg, 11.2)

    def test_planed_wood_takes_the_dressed_size_of_its_nominal_one(self):
        self.client.post(
            f"{self.stock}new/",
            {"species_key": "white ash", "thickness_m": "4/4", "width_m": "150", "length_m": "2 m", "dressed": "on", "seasoning": "kiln"},
        )
        piece = Piece.objects.get()
        self.assertAlmostEqual(piece.thickness_m / INCH_M, 13 / 16)
        self.assertContains(self.client.get(f"{self.stock}{piece.tag}/"), "4/4 planed to")
        wrong = self.client.post(
            f"{self.stock}new/",
            {"species_key": "white ash", "thickness_m": "27", "width_m": "150", "length_m": "2 m", "dressed": "on", "seasoning": "kiln"},
        )
        self.assertContains(wrong, "leave “planed” open", status_code=422)

    def test_days_that_cannot_be_are_refused(self):
        tomorrow = (timezone.localdate() + timedelta(days=1)).isoformat()
        for sent, field in (
            ({"felled_on": tomorrow}, "felled_on"),
            ({"felled_on": "2026-05-01", "sawn_on": "2026-04-01"}, "sawn_on"),
            ({"sawn_on": "0999-01-01"}, "sawn_on"),
            ({"felled_on": "31.2.2026"}, "felled_on"),
            ({"count": "0"}, "count"),
            ({"count": "1000000"}, "count"),
        ):
            with self.subTest(sent):
                answer = self.client.post(
                    f"{self.stock}new/",
                    {"species_key": "white ash", "thickness_m": "30", "width_m": "150", "length_m": "2 m", "seasoning": "air", **sent},
                )
                self.assertEqual(list(answer.context["form"].errors), [field])
        self.assertFalse(Piece.objects.exists())

    def test_the_end_is_found_among_pictures_and_used(self):
        page = self.client.get(f"{self.stock}grain/?ring_angle_deg=80&pith_distance_m=120")
        self.assertContains(page, "Quarter-sawn")
        self.assertEqual(sum(picture.nearest for _, row in page.context["wall"] for picture in row), 1)
        self.assertContains(self.client.get(f"{self.stock}grain/?ring_angle_deg=90&pith_distance_m=10&fragment=grain"), "The pith is in it")
        self.assertContains(self.client.get(f"{self.stock}new/?ring_angle=72&pith=120"), 'value="72"')
        for hostile in ("ring_angle_deg=999", "ring_angle_deg=nan", "pith_distance_m=-4", "piece=%27"):
            self.assertEqual(self.client.get(f"{self.stock}grain/?{hostile}").status_code, 200)


class Lots(StockCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.place = make_place(cls.owner, name="Loft")
        cls.lot = make_lot(cls.owner, 20, place=cls.place)

    def test_a_lot_is_split_with_its_sample_boards_and_none_is_lost(self):
        first, second = actions.add_sample(self.owner, self.lot, LotPart.DEEP), actions.add_sample(self.owner, self.lot)
        self.lot.refresh_from_db()
        answer = self.client.post(f"{self.stock}{self.lot.tag}/split/", {"count": "8", "version": self.lot.version, "samples": [first.pk]})
        self.assertEqual(answer.status_code, 302)
        made = Piece.objects.get(tag="oak-lot-02")
        self.lot.refresh_from_db()
        self.assertEqual((self.lot.count, made.count), (12, 8))
        self.assertEqual((list(made.samples.all()), list(self.lot.samples.all())), ([first], [second]))
        self.assertEqual((made.place, made.species_key, made.thickness_m), (self.place, self.lot.species_key, self.lot.thickness_m))

    def test_more_than_it_holds_is_refused_beside_the_number(self):
        for count in ("20", "21", "100000", "0", "-3", "half"):
            answer = self.client.post(f"{self.stock}{self.lot.tag}/split/", {"count": count, "version": "1"})
            with self.subTest(count):
                self.assertEqual((answer.status_code, list(answer.context["form"].errors)), (422, ["count"]))
        self.assertContains(
            self.client.post(f"{self.stock}{self.lot.tag}/split/", {"count": "25", "version": "1"}), "The lot holds 20", status_code=422
        )
        self.lot.refresh_from_db()
        self.assertEqual(self.lot.count, 20)

    def test_fewer_pieces_than_sample_boards_are_refused_on_either_side(self):
        samples = [actions.add_sample(self.owner, self.lot) for _ in range(3)]
        self.lot.refresh_from_db()
        for count, going in ((2, samples), (18, []), (1, samples[:1])):
            with self.assertRaises(Refused):
                actions.split_lot(self.owner, self.lot, self.lot.version, count, [piece.pk for piece in going])
        with self.assertRaises(Refused):
            actions.change_piece(self.owner, self.lot, self.lot.version, count=2)

    def test_pieces_are_taken_out_until_the_last_is_a_piece_again(self):
        lot = make_lot(self.owner, 3)
        sample = actions.add_sample(self.owner, lot, LotPart.OUTER)
        self.assertEqual((sample.tag, sample.lot), (f"{lot.tag}-s-01", lot))
        self.client.post(f"{self.stock}{lot.tag}/take/", {"version": "1", "sample": sample.tag})
        sample.refresh_from_db()
        self.assertEqual((sample.lot, sample.part, sample.count), (None, "", 1))
        self.client.post(f"{self.stock}{lot.tag}/take/", {"version": "2"})
        lot.refresh_from_db()
        self.assertEqual((lot.count, lot.is_lot), (1, False))
        self.assertContains(self.client.post(f"{self.stock}{lot.tag}/take/", {"version": "3"}, follow=True), "nothing to take from it")
        self.assertContains(self.client.post(f"{self.stock}{lot.tag}/sample/", follow=True), "each is a sample board already")

    def test_a_photograph_is_made_small_and_anything_else_is_refused(self):
        from django.core.files.uploadedfile import SimpleUploadedFile

        def send(content, name="board.jpg"):
            return self.client.post(f"{self.stock}{self.lot.tag}/photos/", {"photo": SimpleUploadedFile(name, content)}, follow=True)

        send(a_picture(3000, 1500))
        photo = Photo.objects.get()
        self.assertEqual((photo.width, photo.height), (1600, 800))
        shown = self.client.get(f"{self.stock}{self.lot.tag}/photos/{photo.pk}/")
        self.assertEqual(shown.headers["Content-Type"], "image/jpeg")
        for content in (b"<svg onload=alert(1)>", b"", b"\xff\xd8\xff" + b"x" * 50):
            self.assertContains(send(content), "notice error")
        for _ in range(6):
            send(a_picture())
        self.assertEqual(Photo.objects.count(), 6)
        self.client.post(f"{self.stock}{self.lot.tag}/photos/{photo.pk}/remove/")
        self.assertEqual(Photo.objects.count(), 5)


class Several(StockCase):
    @classmethod
    def setUpTestData(cls):
        super().setUpTestData()
        cls.place = make_place(cls.owner, name="Loft")
        cls.boards = [make_board(cls.owner) for _ in range(4)]

    def do(self, what, boards, **more):
        chosen = [f"{board.pk}:{board.version}" for board in boards]
        return self.client.post(f"{self.stock}several/", {"piece": chosen, "do": what, "asked": "q=oak", **more}, follow=True)

    def test_chosen_pieces_move_together_with_the_sample_boards_of_their_lots(self):
        lot = make_lot(self.owner, 9)
        sample = actions.add_sample(self.owner, lot)
        self.assertContains(self.do("move", [*self.boards[:2], lot], place=self.place.pk), "3 moved to Loft")
        self.assertEqual(Piece.objects.filter(place=self.place).count(), 4)
        sample.refresh_from_db()
        self.assertEqual(sample.place, self.place)
        self.assertEqual(Entry.objects.filter(what="moved", data__to="Loft").count(), 3)

    def test_what_is_used_leaves_the_lists_and_can_come_back(self):
        self.do("used", self.boards[:1])
        self.assertNotContains(self.client.get(self.stock), "oak-01")
        self.assertContains(self.client.get(f"{self.stock}?q=used"), "oak-01")
        self.boards[0].refresh_from_db()
        self.do("stock", self.boards[:1])
        self.boards[0].refresh_from_db()
        self.assertEqual(self.boards[0].status, Status.IN_STOCK)

    def test_a_piece_is_moved_and_marked_from_its_own_page(self):
        board = self.boards[0]
        page = f"{self.stock}{board.tag}/"
        self.assertContains(self.client.get(page), "Mark as used")
        moved = self.do("move", [board], place=self.place.pk, of=board.tag)
        self.assertEqual(moved.redirect_chain[-1][0], page)
        board.refresh_from_db()
        self.assertContains(self.do("scrapped", [board], of=board.tag), "marked as scrapped")

    def test_nothing_chosen_no_place_and_foreign_pieces_do_nothing(self):
        self.assertContains(self.do("move", [], place=self.place.pk), "Choose some pieces first")
        again = self.do("move", self.boards[:2])
        self.assertContains(again, "Say where they are moved to")
        # What was chosen stays chosen.
        self.assertContains(again, " checked>", count=2)
        foreign = make_board(make_owner())
        self.assertContains(self.do("move", [foreign], place=self.place.pk), "not here any more")
        self.assertContains(self.do("burn", self.boards[:1]), "notice error")
        self.assertFalse(Piece.objects.filter(place=self.place).exists())

    def test_if_one_was_changed_meanwhile_none_is_moved(self):
        actions.change_piece(self.owner, self.boards[1], 1, note="for the stair")
        answer = self.do("move", self.boards, place=self.place.pk)
        self.assertContains(answer, "was first: “oak-02 changed: note”")
        self.assertContains(answer, "Nothing was done")
        self.assertFalse(Piece.objects.filter(place=self.place).exists())

    def test_helpers_move_and_do_not_mark(self):
        self.client.force_login(make_member(self.owner, Role.HELPER).person)
        self.assertContains(self.do("move", self.boards[:1], place=self.place.pk), "1 moved")
        self.boards[1].refresh_from_db()
        self.assertEqual(self.do("used", self.boards[1:2]).status_code, 403)


class TwoAtOnce(Committing):
    def test_a_piece_moved_by_two_at_once_goes_with_the_first_and_the_second_is_told(self):
        owner = make_owner()
        board, places = make_board(owner), [make_place(owner, name="Loft"), make_place(owner, name="Cellar")]

        def move(place):
            try:
                return actions.move(owner, [(board.pk, board.version)], place)
            except Refused as refused:
                return str(refused)
            finally:
                connection.close()

        with ThreadPoolExecutor(2) as pool:
            answers = list(pool.map(move, places))
        board.refresh_from_db()
        text = next(answer for answer in answers if answer != 1)
        self.assertIn(1, answers)
        self.assertIn(f"moved to {board.place.name}", text)
        self.assertEqual(board.version, 2)

    def test_a_species_of_ones_own_is_dropped_or_has_a_piece_and_never_both(self):
        owner = make_owner()
        for _ in range(6):
            own = actions.keep_species(owner, None, 0, common_name="Tideland plum", specific_gravity_12=0.6)
            start = Barrier(2)

            def at_once(act, *given, start=start, **named):
                start.wait()
                try:
                    return act(owner, *given, **named)
                except Refused as refused:
                    return refused
                finally:
                    connection.close()

            with ThreadPoolExecutor(2) as pool:
                added = pool.submit(at_once, actions.add_piece, own.key, thickness_m=0.03, width_m=0.2, length_m=2.0)
                pool.submit(at_once, actions.drop_species, own)
            there = OwnSpecies.objects.filter(pk=own.pk).exists()
            self.assertEqual(there, isinstance(added.result(), Piece), added.result())
            Piece.objects.all().delete()
            OwnSpecies.objects.all().delete()


class GoneMeanwhile(StockCase):
    """What someone else has taken away while a page was open."""

    def test_a_species_that_was_dropped_is_told_beside_the_form_and_what_was_typed_stays(self):
        own = actions.keep_species(self.owner, None, 0, common_name="Tideland plum", specific_gravity_12=0.6)
        board = make_board(self.owner)
        actions.drop_species(self.owner, own)
        with self.assertRaisesRegex(Refused, "not here any more"):
            actions.add_piece(self.owner, own.key, thickness_m=0.03, width_m=0.2, length_m=2.0)
        with self.assertRaisesRegex(Refused, "not here any more"):
            actions.change_piece(self.owner, board, board.version, species_key=own.key)
        with self.assertRaisesRegex(Refused, "taken this away meanwhile"):
            actions.drop_species(self.owner, own)
        with self.assertRaisesRegex(Refused, "taken this away meanwhile"):
            actions.keep_species(self.owner, own, own.version, common_name="Saltmarsh plum")
        self.assertEqual(Entry.objects.filter(what="own_figures_dropped").count(), 1)

    def test_a_tag_in_another_alphabet_leads_to_a_long_address_that_is_kept(self):
        lot = make_lot(self.owner, tag="橅" * 32)
        for _ in range(2):
            self.assertEqual(self.client.post(f"{self.stock}{lot.tag}/sample/", {"once": "y"}).status_code, 302)
        self.assertEqual(lot.samples.count(), 1)
        self.assertGreater(len(Submission.objects.get(token="y").answer_url), 240)
