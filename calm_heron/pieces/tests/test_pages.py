"""The list of the stock and a piece's own page, composed of what the apps bring to them."""

from django.test import SimpleTestCase, TestCase

from calm_heron.judging.queries import chosen, judged
from calm_heron.stock import actions
from calm_heron.stock.kinds import PieceKind
from calm_heron.stock.models import Status
from calm_heron.stock.search import SEARCH_WORDS, parse_search
from tests.counting import query_count
from tests.factories import make_board, make_lot, make_place, make_shop, read_board
from tests.pages import markup_of
from wood.judging.readiness import State


class Understanding(SimpleTestCase):
    def test_words_that_other_apps_registered_are_understood_by_them(self):
        for text, meanings, words in (
            ("oak >12 yard", [(0.12, None)], ["oak", "yard"]),
            ("< 9,5%", [(None, 0.095)], []),
            ("12-10", [(0.10, 0.12)], []),
            ("bowls ready too-dry", [State.READY, State.TOO_DRY], []),
            ("unread blanks", [True], []),
        ):
            result = parse_search(text)
            with self.subTest(text):
                self.assertEqual([item for question in result.meanings.values() for item in question], meanings)
                self.assertEqual(result.words, words)

    def test_every_word_that_is_offered_is_understood(self):
        for sign in SEARCH_WORDS:
            for example in sign.examples:
                self.assertEqual(list(parse_search(example).meanings), [sign], example)


class Listing(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.stock = f"/w/{cls.owner.workshop.slug}/stock/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def tags(self, text="", **more):
        return [piece.tag for piece, _ in self.client.get(self.stock, {"q": text, **more}).context["rows"]]

    def test_moisture_kind_and_verdict_are_asked_together_with_words(self):
        yard = make_place(self.owner, name="Yard")
        wet, dry, bowl = (
            make_board(self.owner, place=yard),
            make_board(self.owner),
            make_board(self.owner, "white_ash", kind=PieceKind.BOWL, place=yard),
        )
        read_board(self.owner, wet, 17, 17.2, 17.1, meter=self.meter)
        read_board(self.owner, dry, 9.1, 9.2, 9.3, 9.2, meter=self.meter)
        read_board(self.owner, bowl, 15, 15.2, meter=self.meter)
        for text, expected in (
            ("oak >12 yard", [wet.tag]),
            (">12", [bowl.tag, wet.tag]),
            ("<12", [dry.tag]),
            ("ready", [dry.tag]),
            ("wait oak", [wet.tag]),
            ("unread", [self.board.tag]),
            ("bowls", [bowl.tag]),
            ("cannot-tell", [self.board.tag]),
            ("ready cannot-tell", [self.board.tag, dry.tag]),
        ):
            with self.subTest(text):
                self.assertEqual(self.tags(text), expected)
        self.assertEqual(self.tags(sort="-moisture")[:3], [wet.tag, bowl.tag, dry.tag])
        self.assertEqual(self.tags(sort="moisture")[0], dry.tag)
        self.assertEqual(len(self.tags(sort="; drop table")), 4)

    def test_the_verdicts_of_the_list_are_those_of_the_pages(self):
        for value in (6, 9.2, 10, 14, 40):
            read_board(self.owner, make_board(self.owner), value, value + 0.1, value, value, meter=self.meter)
        for piece, cells in self.client.get(self.stock).context["rows"]:
            verdict = next(value for column, value in cells if column.key == "verdict")
            about = chosen(self.owner.workshop, {}, piece)
            self.assertEqual(judged(piece, about.purpose, about.target).state, verdict)
            page = markup_of(self.client.get(f"{self.stock}{piece.tag}/"))
            self.assertRegex(page, rf'<p class="answer-word"><svg.*</svg>{str(verdict).capitalize()}</p>')

    def test_the_table_and_the_labels_answer_a_search_as_the_list_does(self):
        ready, wet = make_board(self.owner), make_board(self.owner)
        read_board(self.owner, ready, 9.1, 9.2, 9.3, 9.2, meter=self.meter)
        read_board(self.owner, wet, 17, 17.2, 17.1, meter=self.meter)
        for text, expected in (("ready", [ready.tag]), (">12", [wet.tag]), ("unread", [self.board.tag])):
            out = b"".join(self.client.get(f"{self.stock}table/stock.csv", {"q": text}).streaming_content).decode("utf-8-sig")
            labels = self.client.get(f"{self.stock}labels/", {"q": text}).context["pieces"]
            with self.subTest(text):
                self.assertEqual(self.tags(text), expected)
                self.assertEqual([line.split(",")[0] for line in out.splitlines()[1:]], expected)
                self.assertEqual([piece.tag for piece in labels], expected)

    def test_sample_boards_and_used_wood_are_found_by_their_own_verdict(self):
        sample = actions.add_sample(self.owner, make_lot(self.owner, 9))
        read_board(self.owner, sample, 17, 17.1, 17.2, meter=self.meter)
        used = make_board(self.owner)
        read_board(self.owner, used, 17, 17.1, 17.2, meter=self.meter)
        actions.set_status(self.owner, [(used.pk, used.version)], Status.USED)
        self.assertIn(sample.tag, self.tags("wait"))
        self.assertNotIn(sample.tag, self.tags("cannot-tell"))
        self.assertEqual(self.tags("wait used"), [used.tag])
        many = [make_board(self.owner).tag for _ in range(60)]
        pages = [self.tags("cannot-tell", page=number) for number in (1, 2)]
        self.assertEqual((len(pages[0]), set(many) - set(pages[0] + pages[1])), (50, set()))

    def test_the_number_of_queries_does_not_follow_the_number_of_pieces(self):
        read_board(self.owner, self.board, 9.2, 9.1, 9.3, 9.2, meter=self.meter)
        read_board(self.owner, make_board(self.owner, place=make_place(self.owner)), 9, 9.1, meter=self.meter)
        counts = []
        self.client.get(self.stock)
        for _ in range(2):
            counts.append(
                [query_count(self.client, f"{self.stock}?q={text}") for text in ("", "oak", "ready+oak", "ready+close+cannot-tell")]
            )
            for _ in range(30):
                read_board(self.owner, make_board(self.owner, place=make_place(self.owner)), 9, 9.1, meter=self.meter)
        self.assertEqual(*counts)


class PiecePage(TestCase):
    @classmethod
    def setUpTestData(cls):
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        cls.stock = f"/w/{cls.owner.workshop.slug}/stock/"

    def setUp(self):
        self.client.force_login(self.owner.person)

    def page(self, piece, **question) -> str:
        return self.client.get(f"{self.stock}{piece.tag}/", question).content.decode()

    def test_what_the_apps_bring_stands_in_the_order_of_the_work(self):
        read_board(self.owner, self.board, 9.1, 9.2, 9.3, 9.2, meter=self.meter)
        page = self.page(self.board)
        marks = [
            'answer-word">',
            ">Read it</a>",
            ">How long to dry?</a>",
            ">What will it do?</a>",
            ">Join it with another?</a>",
            "as it was read",
            "<h2>Readings</h2>",
            "<h2>How much it is</h2>",
            "What is known of",
        ]
        places = [page.index(mark) for mark in marks]
        self.assertEqual(places, sorted(places))

    def test_each_kind_is_asked_what_makes_sense_for_it(self):
        for kind, offered, missing in (
            (PieceKind.BOWL, ["Weigh it", "Read it"], ["What will it do?", "How long to dry?"]),
            (PieceKind.SUBFLOOR, ["Read it"], ["What will it do?", "How long to dry?", "Join it with another?"]),
        ):
            page = self.page(make_board(self.owner, kind=kind, place=self.place))
            with self.subTest(kind):
                for words in offered:
                    self.assertIn(f">{words}</a>", page)
                for words in missing:
                    self.assertNotIn(f">{words}</a>", page)

    def test_a_lot_shows_how_far_its_reading_came_and_not_one_boards_drawing(self):
        page = self.page(make_lot(self.owner, 9))
        self.assertIn("No board of it was read yet", page)
        self.assertNotIn("s it was read</h2>", page)

    def test_only_panels_that_stand_alone_are_given_alone(self):
        self.assertContains(self.client.get(f"{self.stock}{self.board.tag}/", {"fragment": "answer"}), "answer-word")
        for fragment in ("", "amount", "<x>"):
            self.assertEqual(self.client.get(f"{self.stock}{self.board.tag}/", {"fragment": fragment}).status_code, 404)

    def test_what_is_gone_says_so(self):
        actions.set_status(self.owner, [(self.board.pk, self.board.version)], Status.USED)
        self.assertIn("stands in no list of what is there", self.page(self.board))
