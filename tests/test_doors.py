"""Who gets in: every address as a stranger, as a member of another workshop, and as a viewer."""

import random
from datetime import timedelta
from html.parser import HTMLParser
from typing import Any

from django.db import transaction
from django.test import TestCase
from django.urls import URLPattern, URLResolver, get_resolver, resolve
from django.utils import timezone

from calm_heron.air.logger_actions import look_at
from calm_heron.builds import actions as builds
from calm_heron.builds.layouts import laying
from calm_heron.builds.models import MeasuredLater
from calm_heron.devices.actions import let_in
from calm_heron.kiln.actions import add_sample, begin_load, note
from calm_heron.kiln.models import Chamber
from calm_heron.logbook.models import Entry
from calm_heron.measuring.models import Reading
from calm_heron.stacks.actions import build_stack
from calm_heron.stacks.actions import note as note_of_stack
from calm_heron.stock.actions import add_photo, keep_species
from calm_heron.turning.actions import put_elsewhere, weigh
from calm_heron.turning.bowls.crack_actions import find_crack
from calm_heron.turning.oven.oven_actions import begin_oven
from calm_heron.workshops.models import Role, Workshop
from tests.factories import a_picture, make_board, make_bowl, make_hygrometer, make_lot, make_member, make_owner, make_shop, read_board
from tests.walks import far, some


def views_inside(patterns: Any = None, inside: bool = False) -> Any:
    """Every view below w/<workshop>/, with its URL name."""
    for pattern in patterns or get_resolver().url_patterns:
        if isinstance(pattern, URLResolver):
            yield from views_inside(pattern.url_patterns, inside or str(pattern.pattern).startswith("w/<slug"))
        elif isinstance(pattern, URLPattern) and inside:
            yield pattern


# Pages that only a rough bowl has.
OF_A_BOWL = {
    "bowl",
    "weigh_bowl",
    "strike_weight_of_bowl",
    "say_turned",
    "rough_out",
    "trace_bowl",
    "bowl_crack",
    "forget_crack",
    "mend_crack",
    "bowl_elsewhere",
    "not_elsewhere",
    "bowl_oven",
}


class Walk(TestCase):
    """A workshop with one of everything, and all addresses inside it."""

    @classmethod
    def setUpTestData(cls) -> None:
        cls.owner, cls.place, cls.meter, cls.board = make_shop()
        read_board(cls.owner, cls.board, 9.2, 9.4, meter=cls.meter)
        cls.hygrometer = make_hygrometer(cls.owner)
        hours = "".join(f"2026-03-01 {hour:02}:00;18,5;52,0\n" for hour in range(5))
        cls.logged = look_at(cls.owner, cls.place, "shop.csv", f"Time;Temp (°C);RH (%)\n{hours}", None, "local")
        cls.photo = add_photo(cls.owner, cls.board, a_picture())
        keep_species(cls.owner, None, 0, key="white_oak", common_name="White oak", specific_gravity_12=0.7)
        built = {"width_m": 1.2, "sticker_m": 0.019, "spacing_m": 0.4, "clear_m": 0.3}
        cls.stack = build_stack(cls.owner, [make_lot(cls.owner)], cls.place, timezone.localdate(), 0.6, **built)
        cls.chamber = Chamber.objects.create(
            workshop=cls.owner.workshop, name="Lean-to", kind="dehumidifier", load_m3=1.0, hottest_c=50.0, heat_kw=2.0, litres_a_day=24.0
        )
        lot = make_lot(cls.owner, 40, "sugar_maple")
        cls.load = begin_load(cls.owner, [(lot, 0.6)], cls.chamber, timezone.now() - timedelta(days=2), wanted=0.08)
        cls.sample = add_sample(cls.owner, cls.load, "A", lot, 3.2, 0.6)
        cls.in_the_oven = add_sample(cls.owner, cls.load, "B", lot, 3.2, None, sections=[(0.18, None)])
        note(cls.owner, cls.load, "power", "", cls.load.began_at, goes_on=True)
        note_of_stack(cls.owner, cls.stack, "rain", "", timezone.now(), goes_on=True)
        cls.device, _ = let_in(cls.owner, "controller", "kiln", cls.chamber.pk)
        cls.bowl = make_bowl(cls.owner)
        cls.weight = weigh(cls.owner, cls.bowl, 1.6)
        cls.session = begin_oven(cls.owner, cls.bowl, 800.0, 1.58)
        cls.spell = put_elsewhere(cls.owner, cls.bowl, "box", timezone.localdate(), None, temperature_c=38.0)
        cls.crack = find_crack(cls.owner, cls.bowl, where="rim", depth_m=0.002, length_m=0.01)
        cls.log = make_board(cls.owner, "black_cherry", kind="log", width_m=0.4, length_m=0.5, thickness_m=0.4)
        plank = make_board(cls.owner, "white_ash", thickness_m=0.03, width_m=0.25, length_m=2.4)
        cls.build = builds.make_build(cls.owner, name="Table", place=cls.place)
        sizes = {"length_m": 0.5, "width_m": 0.3, "thickness_m": 0.02}
        (cls.top,) = builds.add_parts(cls.owner, cls.build, [{"name": "Top", "count": 1, "species_key": "white_ash", "staves": 3, **sizes}])
        laying.mark(cls.owner, plank, 1, "knot", 2.0, 2.1, 0.0, 0.05)
        cls.mark = plank.sawn_round.get()
        cls.measured = MeasuredLater.objects.create(workshop=cls.owner.workshop, part=cls.top, what="width", value=0.3, by=cls.owner.person)
        cls.build.refresh_from_db()
        laying.lay_out(cls.owner, cls.build, cls.build.version)
        cls.viewer = make_member(cls.owner, Role.VIEWER)
        cls.stranger = make_owner(name="Other shop")

    def addresses(self) -> Any:
        values = {
            "workshop": self.owner.workshop.slug,
            "tag": self.board.tag,
            "place_id": self.place.pk,
            "meter_id": self.meter.pk,
            "hygrometer_id": self.hygrometer.pk,
            "reading_id": Reading.objects.first().pk,
            "air_reading_id": self.place.readings.first().pk,
            "photo_id": self.photo.pk,
            "file_id": self.logged.pk,
            "key": "white_oak",
            "thing": "top",
            "stack_tag": self.stack.tag,
            "load_tag": self.load.tag,
            "chamber_id": self.chamber.pk,
            "weight_id": self.sample.weights.get().pk,
            "device_id": self.device.pk,
            "kind": "air",
            "session_id": self.session.pk,
            "crack_id": self.crack.pk,
            "spell_id": self.spell.pk,
            "build_id": self.build.pk,
            "part_id": self.top.pk,
            "cut_id": self.top.cuts.first().pk,
            "mark_id": self.mark.pk,
            "measured_id": self.measured.pk,
            "event_id": self.load.events.get().pk,
            "sample_id": self.in_the_oven.pk,
            "board_id": self.build.held.first().pk,
        }
        from django.urls import reverse

        for pattern in views_inside():
            names = pattern.pattern.converters
            own = values | {"tag": self.log.tag} if pattern.name == "keep_cut" else values
            if pattern.name == "stack_event":
                own = values | {"event_id": self.stack.events.get().pk}
            if pattern.name in OF_A_BOWL:
                own = values | {"tag": self.bowl.tag, "reading_id": self.weight.pk}
            yield pattern, reverse(pattern.name, kwargs={name: own[name] for name in ("workshop", *names)})


class Doors(Walk):
    takes_s = 28

    def test_no_two_pages_share_a_name(self) -> None:
        names = [pattern.name for pattern in views_inside()]
        self.assertEqual(sorted(names), sorted(set(names)))

    def test_there_are_addresses_to_walk(self) -> None:
        self.assertGreater(len(list(self.addresses())), 20)

    def test_strangers_are_sent_to_the_door_and_see_nothing(self) -> None:
        for _, address in self.addresses():
            for method in (self.client.get, self.client.post):
                with self.subTest(address):
                    answer = method(address)
                    if answer.status_code == 302:
                        self.assertIn("/accounts/login/", answer.headers["Location"])
                    else:
                        self.assertEqual(answer.status_code, 405)
                    self.assertNotContains(answer, self.board.tag, status_code=answer.status_code) if answer.status_code != 302 else None

    def test_methods_that_nothing_knows_are_refused_everywhere(self) -> None:
        self.client.force_login(self.owner.person)
        before = Entry.objects.count()
        for address in ("/", "/ask/", "/devices/v1/readings", *(address for _, address in list(self.addresses())[::3])):
            for method in ("put", "patch", "delete", "trace"):
                with self.subTest(address, method=method):
                    self.assertEqual(getattr(self.client, method)(address).status_code, 405)
        self.assertEqual(before, Entry.objects.count())

    def test_members_of_another_workshop_get_not_found_on_every_address(self) -> None:
        self.client.force_login(self.stranger.person)
        for _, address in self.addresses():
            for method in (self.client.get, self.client.post):
                with self.subTest(address):
                    self.assertIn(method(address).status_code, (404, 405))

    def test_viewers_see_every_page_and_may_post_to_none(self) -> None:
        self.client.force_login(self.viewer.person)
        before = (Entry.objects.count(), Reading.objects.count())
        for _, address in self.addresses():
            with self.subTest(address):
                # Pages that are nothing but a form they may not send say whose that is.
                form_alone = getattr(resolve(address).func, "only", False)
                self.assertIn(self.client.get(address).status_code, (403,) if form_alone else (200, 301, 405))
                self.assertIn(self.client.post(address, {"strip": f"{self.board.tag} 9"}).status_code, (403, 405))
        self.assertEqual(before, (Entry.objects.count(), Reading.objects.count()))

    def test_ids_of_another_workshop_in_ones_own_address_are_not_found(self) -> None:
        self.client.force_login(self.stranger.person)
        slug = self.stranger.workshop.slug
        for path in (f"air/{self.place.pk}/", f"meters/{self.meter.pk}/", f"stock/{self.board.tag}/", f"stock/{self.board.tag}/movement/"):
            self.assertEqual(self.client.get(f"/w/{slug}/{path}").status_code, 404)

    def test_another_workshops_rows_in_a_form_are_refused(self) -> None:
        other_board = make_shop(name="Third shop")[3]
        self.client.force_login(self.owner.person)
        foreign = make_shop(name="Fourth shop")[1]
        answer = self.client.post(f"/w/{self.owner.workshop.slug}/stock/{self.board.tag}/change/", {"place": foreign.pk})
        self.assertContains(answer, "Select a valid choice", status_code=422)
        slug = self.owner.workshop.slug
        self.client.post(f"/w/{slug}/read/", {"strip": f"{self.board.tag} 9", "meter": make_shop(name="Fifth")[2].pk})
        self.assertEqual(Reading.objects.filter(piece=other_board).count(), 0)
        for question in (f"place={foreign.pk}", "place=nowhere", "use=nothing"):
            for page in ("", "stock/", f"stock/{self.board.tag}/"):
                self.assertEqual(self.client.get(f"/w/{slug}/{page}?{question}").status_code, 404, question)
        self.assertEqual(self.client.post(f"/w/{slug}/aim/", {"place": foreign.pk, "use": "fine"}).status_code, 404)

    def test_helpers_record_and_do_not_make(self) -> None:
        self.client.force_login(make_member(self.owner, Role.HELPER).person)
        slug = self.owner.workshop.slug
        sent = self.client.post(f"/w/{slug}/read/", {"strip": f"{self.board.tag} 9.1", "meter": self.meter.pk})
        self.assertEqual(sent.status_code, 302)
        self.assertEqual(self.client.post(f"/w/{slug}/stock/new/").status_code, 403)
        self.assertEqual(self.client.post(f"/w/{slug}/people/invite/").status_code, 403)

    def test_the_pages_carry_a_strict_policy(self) -> None:
        policy = self.client.get("/").headers["Content-Security-Policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe", policy)

    def test_pages_are_their_readers_alone_and_are_asked_for_anew(self) -> None:
        self.client.force_login(self.owner.person)
        for address in ("/", f"/w/{self.owner.workshop.slug}/", f"/w/{self.owner.workshop.slug}/log/"):
            said = self.client.get(address).headers["Cache-Control"]
            self.assertIn("private", said)
            self.assertIn("no-cache", said)
            # What must not be stored at all is not there after Back, with what was typed.
            self.assertNotIn("no-store", said)

    def test_back_leads_only_to_addresses_of_ours(self) -> None:
        for question, led in (
            ("/air/", "/air/"),
            ("true", "/"),
            ("//elsewhere.example/", "/"),
            ("javascript:1", "/"),
            ("/" + "x" * 9000, "/"),
        ):
            answer = self.client.post("/appearance/", {"theme": "dark", "back": question})
            self.assertEqual((answer.status_code, answer.headers["Location"]), (302, led))

    def test_a_workshop_founded_twenty_times_is_one(self) -> None:
        self.client.force_login(self.stranger.person)
        led = {self.client.post("/workshops/new/", {"name": "The Back Shed", "units": "metric"}).url for _ in range(20)}
        self.assertEqual(len(led), 1)
        self.assertEqual(Workshop.objects.filter(name="The Back Shed").count(), 1)


class Fields(HTMLParser):
    """The forms of a page: where each is sent, how, and what it would carry as it stands."""

    def __init__(self, page: str) -> None:
        super().__init__()
        self.forms: list[tuple[str, str, dict[str, str]]] = []
        self.select = ""
        self.feed(page)

    def handle_starttag(self, tag: Any, attrs: Any) -> None:
        given = dict(attrs)
        if tag == "form":
            self.forms.append((given.get("action") or "", given.get("method", "get"), {}))
        elif tag == "option" and self.forms and self.select and ("selected" in given or self.select not in self.forms[-1][2]):
            self.forms[-1][2][self.select] = given.get("value") or ""
        elif self.forms and given.get("name") and tag == "select":
            self.select = given["name"]
        elif self.forms and given.get("name") and tag in ("input", "textarea", "button"):
            self.forms[-1][2].setdefault(given["name"], given.get("value") or "")


class Hostile(Walk):
    """Every field of every form of every page, filled with what nobody means: an answer each time, never a failure."""

    takes_s = 45

    NASTY = (
        "",
        "\x00",
        "a\x00b",
        "9" * 5000,
        "99999999999999999999",
        "-1",
        "-99999999999999999999",
        "nan",
        "1e400",
        "inf",
        "true",
        "½",
        "²",
        "٣",
        "x" * 10_000,
        "'\";--<script>alert(1)</script>",
        "\u202e\ud7ff\ufffe",
        "%00%s{0}{x}",
        "0000-00-00",
        "9999-12-31T23:59",
        "../../etc",
        "[]",
        "\n\r\n",
    )

    def forms(self) -> Any:
        for _, address in some(list(self.addresses()), 0, 2):
            page = self.client.get(address)
            if page.status_code == 200 and page.headers["Content-Type"].startswith("text/html"):
                for action, method, fields in Fields(page.content.decode()).forms:
                    yield action.split("?")[0] or address, method.lower(), fields

    def test_no_field_brings_an_answer_down(self) -> None:
        self.client.force_login(self.owner.person)
        self.client.raise_request_exception = False
        chance, seen, question = random.Random(20), set(), 0
        for address, method, fields in list(self.forms()):
            names = sorted(fields.keys() - {"csrfmiddlewaretoken"})
            if address.startswith("/accounts/") or not names or (address, method, *names) in seen:
                continue
            seen.add((address, method, *names))
            send = self.client.post if method == "post" else self.client.get
            # The sample: one field of each form, and then all of them at once. The long walk: each with everything.
            alone = chance.sample(names, min(len(names), far(1, len(names))))
            tries = [{name: nasty} for name in alone for nasty in chance.sample(self.NASTY, far(1, len(self.NASTY)))]
            for wrong in [*tries, {name: chance.choice(self.NASTY) for name in names}]:
                with self.subTest(address=address, wrong={name: nasty[:30] for name, nasty in wrong.items()}), transaction.atomic():
                    self.assertLess(send(address, fields | wrong).status_code, 500)
                    transaction.set_rollback(True)
                question += 1
        self.assertGreater(question, far(90, 200))

    def test_no_encoding_brings_an_answer_down(self) -> None:
        self.client.force_login(self.owner.person)
        self.client.raise_request_exception = False
        shop = f"/w/{self.owner.workshop.slug}/"
        for charset in ("utf-16", "utf-7", "utf-32", "latin-1", "idna", "rot13", "hex", "zlib", "nonsense", "\u00fc"):
            for kind, body in (
                ("application/x-www-form-urlencoded", b"readings=ash+11&place=1&back=true"),
                (
                    "multipart/form-data; boundary=x",
                    b'--x\r\nContent-Disposition: form-data; name="readings"\r\n\r\n\xff\xfea\x00\r\n--x--\r\n',
                ),
            ):
                for address in ("read/", "stock/table/", "aim/", "stock/new/"):
                    with self.subTest(charset=charset, kind=kind, address=address), transaction.atomic():
                        answer = self.client.generic("POST", shop + address, body, content_type=f"{kind}; charset={charset}")
                        self.assertLess(answer.status_code, 500)
                        transaction.set_rollback(True)
            with self.subTest(charset=charset):
                question = self.client.get(f"{shop}stock/?q=%FF%FEo%00", content_type=f"text/plain; charset={charset}")
                self.assertLess(question.status_code, 500)
